import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { keys } from "./keys";

/** What a jar of a version costs in a batch, with what-ifs beside it; nothing is written. */
export const useCost = (id: string, number: number, ask: Schemas["CostAsk"]) =>
  useQuery({
    queryKey: keys.costs.of(id, number, ask),
    queryFn: () => take(api.POST("/formulas/{id}/versions/{number}/cost", { params: { path: { id, number } }, body: ask })),
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
  });

/** The last batches of a formula against their standards. */
export const useVariances = (id: string) =>
  useQuery({
    queryKey: keys.costs.variances(id),
    queryFn: () => take(api.GET("/formulas/{id}/variances", { params: { path: { id } } })),
  });

export const useVariance = (batch: number) =>
  useQuery({
    queryKey: keys.batches.variance(batch),
    queryFn: () => take(api.GET("/batches/{id}/variance", { params: { path: { id: batch } } })),
  });
