import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { batchKeys } from "./batches";
import { refresh } from "./keys";
import { todayKeys } from "./today";

export const labelKeys = {
  lists: ["labels"] as const,
  of: (id: number) => ["label", id] as const,
  one: (id: number, batch: number) => ["label", id, batch] as const,
};

export const useLabels = () => useQuery({ queryKey: labelKeys.lists, queryFn: () => take(api.GET("/labels")) });

export const useLabel = (id: number, batch: number) =>
  useQuery({
    queryKey: labelKeys.one(id, batch),
    queryFn: () => take(api.GET("/labels/{id}", { params: { path: { id }, query: batch ? { batch } : {} } })),
    placeholderData: keepPreviousData,
  });

/** A label was confirmed or changed. */
export function refreshLabel(client: QueryClient, id: number, batch: number, next: Schemas["LabelView"]) {
  client.setQueryData(labelKeys.one(id, batch), next);
  return refresh(client, labelKeys.lists, labelKeys.of(id), todayKeys.all);
}

/** Labels were printed: it stands in the batch's record. */
export const refreshPrinted = (client: QueryClient, id: number) => refresh(client, labelKeys.of(id), batchKeys.ones, todayKeys.all);

export const refreshLabels = (client: QueryClient) => refresh(client, labelKeys.lists, todayKeys.all);
