import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import { keys } from "./keys";

export const useShopQuery = () => useQuery({ queryKey: keys.shop.all, queryFn: () => take(api.GET("/shop")), staleTime: 60_000 });

/** What the server adds to a shop's settings when it shows them; every one is named, or this does not compile. */
const ADDED: Record<Exclude<keyof Schemas["ShopView"], keyof Schemas["Settings"]>, true> = {
  rev: true,
  set_up: true,
  laws: true,
  ticks: true,
  gallon: true,
  english: true,
};

/** The settings of a shop as they are sent back. */
export function settingsOf(shop: Schemas["ShopView"]): Schemas["Settings"] {
  return Object.fromEntries(Object.entries(shop).filter(([k]) => !(k in ADDED))) as unknown as Schemas["Settings"];
}
