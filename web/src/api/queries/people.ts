import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { refresh } from "./keys";

const peopleKeys = { session: ["session"] as const, all: ["people"] as const };

export const useSessionQuery = () =>
  useQuery({ queryKey: peopleKeys.session, queryFn: () => take(api.GET("/session")), staleTime: 30_000 });

export const usePeople = () => useQuery({ queryKey: peopleKeys.all, queryFn: () => take(api.GET("/people")) });

export const refreshSession = (client: QueryClient) => refresh(client, peopleKeys.session);
