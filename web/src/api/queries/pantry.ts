import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";

import { keys, refresh } from "./keys";

export const useIngredients = ({ enabled = true } = {}) =>
  useQuery({ queryKey: keys.pantry.all, queryFn: () => take(api.GET("/ingredients")), enabled });

export const useIngredient = (id: string) =>
  useQuery({ queryKey: keys.pantry.one(id), queryFn: () => take(api.GET("/ingredients/{id}", { params: { path: { id } } })) });

/** An ingredient was stored: its page, the pantry's list, and every sheet that weighs it. */
export function refreshIngredient(client: QueryClient, v: Schemas["IngredientView"]) {
  client.setQueryData(keys.pantry.one(v.id), v);
  return refresh(client, keys.pantry.all, keys.today.all, keys.formulas.sheets);
}

/** One of the shop's measures was weighed or removed: recipes are read again. */
export function refreshMeasure(client: QueryClient, v: Schemas["IngredientView"]) {
  client.setQueryData(keys.pantry.one(v.id), v);
  return refresh(client, keys.reader.ones, keys.formulas.sheets);
}

/** A new ingredient stands in the list. */
export const refreshPantry = (client: QueryClient) => refresh(client, keys.pantry.all, keys.today.all);
