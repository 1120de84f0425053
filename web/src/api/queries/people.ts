import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { keys, refresh } from "./keys";

export const useSessionQuery = () =>
  useQuery({ queryKey: keys.people.session, queryFn: () => take(api.GET("/session")), staleTime: 30_000 });

export const usePeople = () => useQuery({ queryKey: keys.people.all, queryFn: () => take(api.GET("/people")) });

export const refreshSession = (client: QueryClient) => refresh(client, keys.people.session);
