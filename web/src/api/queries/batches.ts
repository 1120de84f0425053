import { keepPreviousData, type QueryClient, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { refresh } from "./keys";
import { labelKeys } from "./labels";
import { lotKeys } from "./lots";
import { todayKeys } from "./today";

export const batchKeys = {
  lists: ["batches"] as const,
  ones: ["batch"] as const,
  one: (id: number) => ["batch", id] as const,
  lots: (id: number) => ["batch", id, "lots"] as const,
  cost: (id: number) => ["batch", id, "cost"] as const,
  variance: (id: number) => ["batch", id, "variance"] as const,
  /** what jars cost, and what batches cost against their standards */
  costs: ["costs"] as const,
  jars: ["jars"] as const,
};

/** What of a batch's bowl may go into other jars. */
export const useBowl = (id: number) =>
  useQuery({
    queryKey: ["bowl", id],
    queryFn: () => take(api.GET("/batches/{id}/bowl", { params: { path: { id } } })),
    staleTime: 0,
  });

export const useBatch = (id: number) =>
  useQuery({ queryKey: batchKeys.one(id), queryFn: () => take(api.GET("/batches/{id}", { params: { path: { id } } })) });

export const useBatchLots = (id: number) =>
  useQuery({ queryKey: batchKeys.lots(id), queryFn: () => take(api.GET("/batches/{id}/lots", { params: { path: { id } } })) });

export const useBatchCost = (id: number) =>
  useQuery({ queryKey: batchKeys.cost(id), queryFn: () => take(api.GET("/batches/{id}/cost", { params: { path: { id } } })) });

export const useBatches = (state?: "hold" | "released" | "called_back" | "rejected") =>
  useInfiniteQuery({
    queryKey: [...batchKeys.lists, "list", state ?? "all"],
    queryFn: ({ pageParam }) => take(api.GET("/batches", { params: { query: { after: pageParam, state } } })),
    initialPageParam: "",
    getNextPageParam: (last) => last.next || undefined,
    placeholderData: keepPreviousData,
  });

export const useFoundBatches = (find: string, enabled: boolean) =>
  useQuery({
    queryKey: [...batchKeys.lists, "find", find],
    queryFn: () => take(api.GET("/batches", { params: { query: find ? { find } : {} } })),
    placeholderData: keepPreviousData,
    enabled,
  });

export const useDates = () => useQuery({ queryKey: [...batchKeys.lists, "dates"], queryFn: () => take(api.GET("/dates")) });

export const useJars = () => useQuery({ queryKey: batchKeys.jars, queryFn: () => take(api.GET("/jars")), refetchOnMount: "always" });

export const useRested = (batch: number, entry: number) =>
  useQuery({
    queryKey: ["rested", batch, entry],
    queryFn: () => take(api.GET("/batches/{id}/rested/{entry}", { params: { path: { id: batch, entry } } })),
  });

export const usePrint = (batch: number, entry: number) =>
  useQuery({
    queryKey: ["print", batch, entry],
    queryFn: () => take(api.GET("/batches/{id}/prints/{entry}", { params: { path: { id: batch, entry } } })),
  });

/** An entry of a batch was written: its page, what its lots have left, and every list that it stands in. */
export function refreshBatch(client: QueryClient, id: number, next: Schemas["BatchView"]) {
  client.setQueryData(batchKeys.one(id), next);
  void refresh(
    client,
    batchKeys.lots(id),
    batchKeys.cost(id),
    batchKeys.variance(id),
    batchKeys.costs,
    batchKeys.lists,
    lotKeys.stock,
    lotKeys.lists,
    batchKeys.jars,
    todayKeys.all,
    labelKeys.lists,
  );
}

export const refreshJars = (client: QueryClient) => refresh(client, batchKeys.jars);

export type PlanAsk = Schemas["PlanAsk"];

/** What a plan comes to; asked anew with every change of it, the last answer staying meanwhile. */
export const usePlanPreview = (ask: PlanAsk) =>
  useQuery({
    queryKey: ["plan", ask],
    queryFn: () => take(api.POST("/plan", { body: ask })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const usePlanOf = (batch: number) =>
  useQuery({ queryKey: ["plan of", batch], queryFn: () => take(api.GET("/batches/{id}/plan", { params: { path: { id: batch } } })) });

export const useLags = () => useQuery({ queryKey: ["lags"], queryFn: () => take(api.GET("/lags")), staleTime: 30_000 });
