import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { keys, refreshAll } from "./keys";

export const useRecalls = () =>
  useQuery({ queryKey: keys.recalls.all, queryFn: () => take(api.GET("/recalls")), refetchOnMount: "always" });

/** One recall. Others may be telling customers at the same time, so an open one is read again now and then. */
export const useRecall = (id: number) =>
  useQuery({
    queryKey: keys.recalls.one(id),
    queryFn: () => take(api.GET("/recalls/{id}", { params: { path: { id } } })),
    refetchInterval: (q) => (q.state.data && !q.state.data.closed_at ? 10_000 : false),
  });

export function refreshRecall(client: QueryClient, next: Schemas["RecallView"]) {
  void refreshAll(client);
  client.setQueryData(keys.recalls.one(next.id), next);
}
