import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";

import { keys, refresh } from "./keys";

export const useToLookAt = () => useQuery({ queryKey: keys.allergens.open, queryFn: () => take(api.GET("/allergens/open")) });

export const useChanges = () => useQuery({ queryKey: keys.allergens.changes, queryFn: () => take(api.GET("/allergens/changes")) });

export const useChange = (id: string) =>
  useQuery({
    queryKey: keys.allergens.change(id),
    queryFn: () => take(api.GET("/allergens/changes/{id}", { params: { path: { id: Number(id) } } })),
    enabled: /^\d+$/.test(id),
  });

export const useVessels = () => useQuery({ queryKey: keys.allergens.vessels, queryFn: () => take(api.GET("/vessels")) });

/** What was in a vessel, or a clean-down: it may reach the next batch. */
export const refreshVessels = (client: QueryClient) => refresh(client, keys.allergens.vessels, keys.batches.ones);

/** What the words of a name or a list say of allergens, while they are typed. */
export const useTextMarks = (text: string) =>
  useQuery({
    queryKey: keys.allergens.packet(text),
    queryFn: () => take(api.POST("/allergens/read", { body: { text } })),
    staleTime: 300_000,
    placeholderData: keepPreviousData,
    enabled: text.trim() !== "",
  });
