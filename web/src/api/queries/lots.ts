import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import type { paths } from "../schema";

import { keys, refresh } from "./keys";

type Show = NonNullable<NonNullable<paths["/lots"]["get"]["parameters"]["query"]>["show"]>;

export const useLot = (id: number) =>
  useQuery({ queryKey: keys.lots.one(id), queryFn: () => take(api.GET("/lots/{id}", { params: { path: { id } } })) });

export const useStock = () => useQuery({ queryKey: keys.lots.stock, queryFn: () => take(api.GET("/stock")), refetchOnMount: "always" });

export const useLots = (show: Show, find: string) =>
  useQuery({
    queryKey: keys.lots.list(show, find),
    queryFn: () => take(api.GET("/lots", { params: { query: { show, ...(find ? { find } : {}) } } })),
    placeholderData: keepPreviousData,
    refetchOnMount: "always",
  });

export const useFoundLots = (find: string, enabled: boolean) =>
  useQuery({
    queryKey: keys.lots.found(find),
    queryFn: () => take(api.GET("/lots", { params: { query: { show: "there", find } } })),
    placeholderData: keepPreviousData,
    enabled,
  });

/** What is there of one ingredient or product. */
export const useLotsOf = (of: string) =>
  useQuery({
    queryKey: keys.lots.of(of),
    queryFn: () => take(api.GET("/lots", { params: { query: { show: "there", of } } })),
  });

/** Something was done with a lot: the stock, and the batches and ingredients that it stands behind. */
export function refreshLot(client: QueryClient, next: Schemas["LotView"]) {
  client.setQueryData(keys.lots.one(next.id), next);
  void refresh(client, keys.lots.stock, keys.lots.lists, keys.today.all, keys.batches.ones, keys.batches.lists, keys.pantry.ones);
}
