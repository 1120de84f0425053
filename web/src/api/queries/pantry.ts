import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { formulaKeys } from "./formulas";
import { refresh } from "./keys";
import { readerKeys } from "./reader";
import { todayKeys } from "./today";

export const pantryKeys = { all: ["pantry"] as const, one: (id: string) => ["ingredient", id] as const, ones: ["ingredient"] as const };

export const useIngredients = ({ enabled = true } = {}) =>
  useQuery({ queryKey: pantryKeys.all, queryFn: () => take(api.GET("/ingredients")), enabled });

export const useIngredient = (id: string) =>
  useQuery({ queryKey: pantryKeys.one(id), queryFn: () => take(api.GET("/ingredients/{id}", { params: { path: { id } } })) });

/** An ingredient was stored: its page, the pantry's list, and every sheet that weighs it. */
export function refreshIngredient(client: QueryClient, v: Schemas["IngredientView"]) {
  client.setQueryData(pantryKeys.one(v.id), v);
  return refresh(client, pantryKeys.all, todayKeys.all, formulaKeys.sheets);
}

/** A measure of the shop's own was weighed or taken out: recipes are read anew with it. */
export function refreshMeasure(client: QueryClient, v: Schemas["IngredientView"]) {
  client.setQueryData(pantryKeys.one(v.id), v);
  return refresh(client, readerKeys.ones, formulaKeys.sheets);
}

/** A new ingredient stands in the list. */
export const refreshPantry = (client: QueryClient) => refresh(client, pantryKeys.all, todayKeys.all);
