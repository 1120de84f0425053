import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import type { paths } from "../schema";
import { keys, refresh, refreshAll } from "./keys";

type Step = Schemas["PreparationView"];

export const usePreparations = () => useQuery({ queryKey: keys.preparations.all, queryFn: () => take(api.GET("/preparations")) });

export const useRoutes = (p: Step, body: paths["/routes"]["post"]["requestBody"]["content"]["application/json"]) =>
  useQuery({
    queryKey: keys.preparations.routes(p.id, p.rev, body),
    queryFn: () => take(api.POST("/routes", { body })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useLessWater = (p: Step, enabled: boolean) =>
  useQuery({
    queryKey: keys.preparations.lessWater(p.id, p.rev),
    queryFn: async () => {
      const now = await take(api.GET("/ingredients/{id}", { params: { path: { id: p.output } } }));
      const worked = await take(api.GET("/preparations/{id}/less-water", { params: { path: { id: p.id } } }));
      return { now, worked };
    },
    enabled,
    retry: false,
    staleTime: 0,
  });

/** A step was changed in place: yields reach into every cost. */
export async function refreshPreparation(client: QueryClient, v: Step) {
  client.setQueryData<Step[]>(keys.preparations.all, (list) => list?.map((x) => (x.id === v.id ? v : x)));
  await refreshAll(client);
}

export const refreshPreparations = (client: QueryClient) => refresh(client, keys.preparations.all);
