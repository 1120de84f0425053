import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";

import { keys, refresh } from "./keys";

export const useParties = ({ enabled = true } = {}) =>
  useQuery({ queryKey: keys.parties.all, queryFn: () => take(api.GET("/parties")), enabled });

export const refreshParties = (client: QueryClient) => refresh(client, keys.batches.jars, keys.parties.all);
