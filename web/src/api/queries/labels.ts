import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";

import { keys, refresh } from "./keys";

export const useLabels = () => useQuery({ queryKey: keys.labels.lists, queryFn: () => take(api.GET("/labels")) });

export const useLabel = (id: number, batch: number) =>
  useQuery({
    queryKey: keys.labels.one(id, batch),
    queryFn: () => take(api.GET("/labels/{id}", { params: { path: { id }, query: batch ? { batch } : {} } })),
    placeholderData: keepPreviousData,
  });

/** A label was confirmed or changed. */
export function refreshLabel(client: QueryClient, id: number, batch: number, next: Schemas["LabelView"]) {
  client.setQueryData(keys.labels.one(id, batch), next);
  return refresh(client, keys.labels.lists, keys.labels.of(id), keys.today.all);
}

/** Labels were printed: it stands in the batch's record. */
export const refreshPrinted = (client: QueryClient, id: number) => refresh(client, keys.labels.of(id), keys.batches.ones, keys.today.all);

export const refreshLabels = (client: QueryClient) => refresh(client, keys.labels.lists, keys.today.all);
