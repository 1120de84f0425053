import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { keys, refresh } from "./keys";

/** How the book is kept safe; asked for where an owner is signed in. */
export const useBackups = (owner: boolean) =>
  useQuery({ queryKey: keys.backups.all, queryFn: () => take(api.GET("/backups")), enabled: owner });

export const refreshBackups = (client: QueryClient) => refresh(client, keys.backups.all, keys.today.all);
