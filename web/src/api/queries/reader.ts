import { type QueryClient, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { keys, refresh } from "./keys";

/** The newest recipes, for Find. */
export const useNewestRecipes = () => useQuery({ queryKey: keys.reader.lists, queryFn: () => take(api.GET("/recipes")) });

export const useRecipes = () =>
  useInfiniteQuery({
    queryKey: keys.reader.list,
    queryFn: ({ pageParam }) => take(api.GET("/recipes", { params: { query: { after: pageParam } } })),
    initialPageParam: "",
    getNextPageParam: (last) => last.next || undefined,
  });

export const useRecipe = (id: number) =>
  useQuery({
    queryKey: keys.reader.one(id),
    queryFn: () => take(api.GET("/recipes/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });

export const refreshRecipes = (client: QueryClient) => refresh(client, keys.reader.lists);

/** What was typed into a recipe was stored. */
export function refreshRecipe(client: QueryClient, next: Schemas["RecipeView"]) {
  client.setQueryData(keys.reader.one(next.id), next);
  return refresh(client, keys.reader.lists, keys.reader.words);
}

/** What the shop has told the reader for good. */
export const useWords = (enabled = true) =>
  useQuery({ queryKey: keys.reader.words, queryFn: () => take(api.GET("/words")), enabled, staleTime: 0 });

/** Words of the shop were added or taken back: every reading may be different now. */
export function refreshWords(client: QueryClient, next: Schemas["ShopWord"][]) {
  client.setQueryData(keys.reader.words, next);
  return refresh(client, keys.reader.lists, keys.reader.ones);
}

/** Takes a word of the shop back. */
export function useDropWord() {
  const client = useQueryClient();
  return async (id: number, why: string) => {
    const next = await take(api.DELETE("/words/{id}", { params: { path: { id }, query: { why } } }));
    await refreshWords(client, next);
  };
}
