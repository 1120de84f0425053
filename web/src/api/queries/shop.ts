import { useQuery } from "@tanstack/react-query";
import { api, take } from "../client";

export const shopKeys = { all: ["shop"] as const };

export const useShopQuery = () => useQuery({ queryKey: shopKeys.all, queryFn: () => take(api.GET("/shop")), staleTime: 60_000 });
