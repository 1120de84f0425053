import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import type { paths } from "../schema";
import { batchKeys } from "./batches";
import { refresh } from "./keys";
import { pantryKeys } from "./pantry";
import { todayKeys } from "./today";

type Show = NonNullable<NonNullable<paths["/lots"]["get"]["parameters"]["query"]>["show"]>;

export const lotKeys = { lists: ["lots"] as const, stock: ["stock"] as const, one: (id: number) => ["lot", id] as const };

export const useLot = (id: number) =>
  useQuery({ queryKey: lotKeys.one(id), queryFn: () => take(api.GET("/lots/{id}", { params: { path: { id } } })) });

export const useStock = () => useQuery({ queryKey: lotKeys.stock, queryFn: () => take(api.GET("/stock")), refetchOnMount: "always" });

export const useLots = (show: Show, find: string) =>
  useQuery({
    queryKey: [...lotKeys.lists, show, find],
    queryFn: () => take(api.GET("/lots", { params: { query: { show, ...(find ? { find } : {}) } } })),
    placeholderData: keepPreviousData,
    refetchOnMount: "always",
  });

export const useFoundLots = (find: string, enabled: boolean) =>
  useQuery({
    queryKey: [...lotKeys.lists, "find", find],
    queryFn: () => take(api.GET("/lots", { params: { query: { show: "there", find } } })),
    placeholderData: keepPreviousData,
    enabled,
  });

/** What is there of one ingredient or product. */
export const useLotsOf = (of: string) =>
  useQuery({
    queryKey: [...lotKeys.lists, "of", of],
    queryFn: () => take(api.GET("/lots", { params: { query: { show: "there", of } } })),
  });

/** Something was done with a lot: the stock, and the batches and ingredients that it stands behind. */
export function refreshLot(client: QueryClient, next: Schemas["LotView"]) {
  client.setQueryData(lotKeys.one(next.id), next);
  void refresh(client, lotKeys.stock, lotKeys.lists, todayKeys.all, batchKeys.ones, batchKeys.lists, pantryKeys.ones);
}
