import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import type { paths } from "../schema";
import { age, refresh } from "./keys";
import { todayKeys } from "./today";

type Sheet = Schemas["SheetView"];
type SwapBody = paths["/swap"]["post"]["requestBody"]["content"]["application/json"];

export const formulaKeys = {
  all: ["formulas"] as const,
  sheets: ["sheet"] as const,
  sheetsOf: (formula: string) => ["sheet", formula] as const,
  /** number 0 is the version to begin with: the draft, or the newest locked one. */
  sheet: (formula: string, number: number) => ["sheet", formula, number] as const,
};

export const useFormulas = ({ enabled = true } = {}) =>
  useQuery({ queryKey: formulaKeys.all, queryFn: () => take(api.GET("/formulas")), enabled });

export const useSheet = (id: string, number: number) =>
  useQuery({
    queryKey: formulaKeys.sheet(id, number),
    queryFn: () => take(api.GET("/formulas/{id}/versions/{number}", { params: { path: { id, number } } })),
    staleTime: 0,
  });

export const useLock = (formula: string, version: number) =>
  useQuery({
    queryKey: ["lock", formula, version],
    queryFn: () => take(api.GET("/formulas/{id}/versions/{number}/lock", { params: { path: { id: formula, number: version } } })),
  });

export const useBeforeLock = (formula: string, version: number) =>
  useQuery({
    queryKey: ["before-lock", formula, version],
    queryFn: () => take(api.GET("/formulas/{id}/versions/{number}/before-lock", { params: { path: { id: formula, number: version } } })),
    gcTime: 0,
    staleTime: 0,
  });

export const useSwap = (version: Schemas["Version"], line: string, to: string | undefined, keep: SwapBody["keep"]) =>
  useQuery({
    queryKey: ["swap", version, line, to, keep],
    queryFn: () => take(api.POST("/swap", { body: { version, line, to: to ?? "", keep } })),
    enabled: !!to,
    retry: false,
  });

export const useCompared = (view: Sheet, before: number, after: number) =>
  useQuery({
    queryKey: ["compare", view.formula, before, after, view.rev],
    queryFn: () => take(api.GET("/formulas/{id}/compare", { params: { path: { id: view.formula }, query: { before, after } } })),
    enabled: before !== after,
  });

export const useFamily = (formula: string) =>
  useQuery({
    queryKey: ["family", formula],
    queryFn: () => take(api.GET("/formulas/{id}/family", { params: { path: { id: formula } } })),
    staleTime: 0,
  });

export const useSideBySide = (shown: Schemas["VersionRef"][]) =>
  useQuery({
    queryKey: ["side", shown],
    queryFn: () => take(api.POST("/side-by-side", { body: { versions: shown } })),
    enabled: shown.length > 0,
    placeholderData: keepPreviousData,
  });

export const useRebase = (formula: string) =>
  useQuery({
    queryKey: ["rebase", formula],
    queryFn: () => take(api.POST("/formulas/{id}/rebase", { params: { path: { id: formula } }, body: { apply: false } })),
    staleTime: 0,
    retry: false,
  });

export const useAtSize = (formula: string, version: number, jars: number | null, open: boolean) =>
  useQuery({
    queryKey: ["at-size", formula, version, jars],
    queryFn: () =>
      take(
        api.GET("/formulas/{id}/versions/{number}/at-size", {
          params: { path: { id: formula, number: version }, query: { jars: jars ?? 0 } },
        }),
      ),
    enabled: open && !!jars && jars > 0,
    placeholderData: keepPreviousData,
    retry: false,
  });

/** Typing on a sheet was stored: the lists are read anew when somebody looks at them. */
export function refreshSheet(client: QueryClient, next: Sheet) {
  client.setQueryData(formulaKeys.sheet(next.formula, next.version.version), next);
  age(client, formulaKeys.all, todayKeys.all);
}

/** A version was begun or locked, or replaced by a standard: the sheet that is open takes it in. */
export async function refreshVersions(client: QueryClient, next: Sheet) {
  client.setQueryData(formulaKeys.sheet(next.formula, next.version.version), next);
  client.removeQueries({ queryKey: formulaKeys.sheet(next.formula, 0) });
  await refresh(client, formulaKeys.all, formulaKeys.sheetsOf(next.formula), todayKeys.all);
}

/** A draft was thrown away. */
export async function forgetSheets(client: QueryClient, formula: string) {
  client.removeQueries({ queryKey: formulaKeys.sheetsOf(formula) });
  await refresh(client, formulaKeys.all, todayKeys.all);
}

export const refreshFormulas = (client: QueryClient) => refresh(client, formulaKeys.all, todayKeys.all);
