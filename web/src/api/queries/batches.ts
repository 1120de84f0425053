import { keepPreviousData, type QueryClient, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { keys, refresh } from "./keys";

/** What of a batch's bowl may go into other jars. */
export const useBowl = (id: number) =>
  useQuery({
    queryKey: keys.batches.bowl(id),
    queryFn: () => take(api.GET("/batches/{id}/bowl", { params: { path: { id } } })),
    staleTime: 0,
  });

export const useBatch = (id: number) =>
  useQuery({ queryKey: keys.batches.one(id), queryFn: () => take(api.GET("/batches/{id}", { params: { path: { id } } })) });

export const useBatchLots = (id: number) =>
  useQuery({ queryKey: keys.batches.lots(id), queryFn: () => take(api.GET("/batches/{id}/lots", { params: { path: { id } } })) });

export const useBatchCost = (id: number) =>
  useQuery({ queryKey: keys.batches.cost(id), queryFn: () => take(api.GET("/batches/{id}/cost", { params: { path: { id } } })) });

export const useBatches = (state?: "hold" | "released" | "called_back" | "rejected") =>
  useInfiniteQuery({
    queryKey: keys.batches.list(state),
    queryFn: ({ pageParam }) => take(api.GET("/batches", { params: { query: { after: pageParam, state } } })),
    initialPageParam: "",
    getNextPageParam: (last) => last.next || undefined,
    placeholderData: keepPreviousData,
  });

export const useFoundBatches = (find: string) =>
  useQuery({
    queryKey: keys.batches.found(find),
    queryFn: () => take(api.GET("/batches", { params: { query: find ? { find } : {} } })),
    placeholderData: keepPreviousData,
  });

export const useDates = () => useQuery({ queryKey: keys.batches.dates, queryFn: () => take(api.GET("/dates")) });

export const useJars = () => useQuery({ queryKey: keys.batches.jars, queryFn: () => take(api.GET("/jars")), refetchOnMount: "always" });

export const useRested = (batch: number, entry: number) =>
  useQuery({
    queryKey: keys.batches.rested(batch, entry),
    queryFn: () => take(api.GET("/batches/{id}/rested/{entry}", { params: { path: { id: batch, entry } } })),
  });

export const usePrint = (batch: number, entry: number) =>
  useQuery({
    queryKey: keys.batches.print(batch, entry),
    queryFn: () => take(api.GET("/batches/{id}/prints/{entry}", { params: { path: { id: batch, entry } } })),
  });

/** An entry of a batch was written: its page, what its lots have left, and every list that it stands in. */
export function refreshBatch(client: QueryClient, id: number, next: Schemas["BatchView"]) {
  client.setQueryData(keys.batches.one(id), next);
  void refresh(
    client,
    keys.batches.lots(id),
    keys.batches.cost(id),
    keys.batches.variance(id),
    keys.costs.all,
    keys.batches.lists,
    keys.lots.stock,
    keys.lots.lists,
    keys.batches.jars,
    keys.today.all,
    keys.labels.lists,
  );
}

export const refreshJars = (client: QueryClient) => refresh(client, keys.batches.jars);

export type PlanAsk = Schemas["PlanAsk"];

/** What a plan amounts to. It is asked for at every change; the last answer stays meanwhile. */
export const usePlanPreview = (ask: PlanAsk) =>
  useQuery({
    queryKey: keys.batches.plan(ask),
    queryFn: () => take(api.POST("/plan", { body: ask })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const usePlanOf = (batch: number) =>
  useQuery({
    queryKey: keys.batches.planOf(batch),
    queryFn: () => take(api.GET("/batches/{id}/plan", { params: { path: { id: batch } } })),
  });

export const useLags = () => useQuery({ queryKey: keys.batches.lags, queryFn: () => take(api.GET("/lags")), staleTime: 30_000 });
