import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { batchKeys } from "./batches";
import { refresh } from "./keys";

const allergenKeys = { open: ["allergens", "open"] as const, changes: ["allergens", "changes"] as const, vessels: ["vessels"] as const };

export const useToLookAt = () => useQuery({ queryKey: allergenKeys.open, queryFn: () => take(api.GET("/allergens/open")) });

export const useChanges = () => useQuery({ queryKey: allergenKeys.changes, queryFn: () => take(api.GET("/allergens/changes")) });

export const useChange = (id: string) =>
  useQuery({
    queryKey: [...allergenKeys.changes, id],
    queryFn: () => take(api.GET("/allergens/changes/{id}", { params: { path: { id: Number(id) } } })),
    enabled: /^\d+$/.test(id),
  });

export const useVessels = () => useQuery({ queryKey: allergenKeys.vessels, queryFn: () => take(api.GET("/vessels")) });

/** What was in a vessel, or a clean-down: it may reach the next batch. */
export const refreshVessels = (client: QueryClient) => refresh(client, allergenKeys.vessels, batchKeys.ones);

/** What the words of a name or a list say of allergens, while they are typed. */
export const useTextMarks = (text: string) =>
  useQuery({
    queryKey: ["words", text],
    queryFn: () => take(api.POST("/allergens/read", { body: { text } })),
    staleTime: 300_000,
    placeholderData: keepPreviousData,
    enabled: text.trim() !== "",
  });
