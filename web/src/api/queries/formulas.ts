import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import type { paths } from "../schema";
import { age, keys, refresh } from "./keys";

type Sheet = Schemas["SheetView"];
type SwapBody = paths["/swap"]["post"]["requestBody"]["content"]["application/json"];

export const useFormulas = ({ enabled = true } = {}) =>
  useQuery({ queryKey: keys.formulas.all, queryFn: () => take(api.GET("/formulas")), enabled });

export const useSheet = (id: string, number: number) =>
  useQuery({
    queryKey: keys.formulas.sheet(id, number),
    queryFn: () => take(api.GET("/formulas/{id}/versions/{number}", { params: { path: { id, number } } })),
    staleTime: 0,
  });

export const useLock = (formula: string, version: number) =>
  useQuery({
    queryKey: keys.formulas.lock(formula, version),
    queryFn: () => take(api.GET("/formulas/{id}/versions/{number}/lock", { params: { path: { id: formula, number: version } } })),
  });

export const useBeforeLock = (formula: string, version: number) =>
  useQuery({
    queryKey: keys.formulas.beforeLock(formula, version),
    queryFn: () => take(api.GET("/formulas/{id}/versions/{number}/before-lock", { params: { path: { id: formula, number: version } } })),
    gcTime: 0,
    staleTime: 0,
  });

export const useSwap = (version: Schemas["Version"], line: string, to: string | undefined, keep: SwapBody["keep"]) =>
  useQuery({
    queryKey: keys.formulas.swap(version, line, to, keep),
    queryFn: () => take(api.POST("/swap", { body: { version, line, to: to ?? "", keep } })),
    enabled: !!to,
    retry: false,
  });

export const useCompared = (view: Sheet, before: number, after: number) =>
  useQuery({
    queryKey: keys.formulas.compare(view.formula, before, after, view.rev),
    queryFn: () => take(api.GET("/formulas/{id}/compare", { params: { path: { id: view.formula }, query: { before, after } } })),
    enabled: before !== after,
  });

export const useFamily = (formula: string) =>
  useQuery({
    queryKey: keys.formulas.family(formula),
    queryFn: () => take(api.GET("/formulas/{id}/family", { params: { path: { id: formula } } })),
    staleTime: 0,
  });

export const useSideBySide = (shown: Schemas["VersionRef"][]) =>
  useQuery({
    queryKey: keys.formulas.side(shown),
    queryFn: () => take(api.POST("/side-by-side", { body: { versions: shown } })),
    enabled: shown.length > 0,
    placeholderData: keepPreviousData,
  });

export const useRebase = (formula: string) =>
  useQuery({
    queryKey: keys.formulas.rebase(formula),
    queryFn: () => take(api.POST("/formulas/{id}/rebase", { params: { path: { id: formula } }, body: { apply: false } })),
    staleTime: 0,
    retry: false,
  });

export const useAtSize = (formula: string, version: number, jars: number | null, open: boolean) =>
  useQuery({
    queryKey: keys.formulas.atSize(formula, version, jars),
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

/** Typing on a sheet was stored: lists are read again when they are next shown. */
export function refreshSheet(client: QueryClient, next: Sheet) {
  client.setQueryData(keys.formulas.sheet(next.formula, next.version.version), next);
  age(client, keys.formulas.all, keys.today.all);
}

/** A version was begun or locked, or replaced by a standard: the sheet that is open takes it in. */
export async function refreshVersions(client: QueryClient, next: Sheet) {
  client.setQueryData(keys.formulas.sheet(next.formula, next.version.version), next);
  client.removeQueries({ queryKey: keys.formulas.sheet(next.formula, 0) });
  await refresh(client, keys.formulas.all, keys.formulas.sheetsOf(next.formula), keys.today.all);
}

/** A draft was thrown away. */
export async function forgetSheets(client: QueryClient, formula: string) {
  client.removeQueries({ queryKey: keys.formulas.sheetsOf(formula) });
  await refresh(client, keys.formulas.all, keys.today.all);
}

export const refreshFormulas = (client: QueryClient) => refresh(client, keys.formulas.all, keys.today.all);
