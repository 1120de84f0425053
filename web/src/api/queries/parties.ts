import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { batchKeys } from "./batches";
import { refresh } from "./keys";

const partyKeys = { all: ["parties"] as const };

export const useParties = ({ enabled = true } = {}) =>
  useQuery({ queryKey: partyKeys.all, queryFn: () => take(api.GET("/parties")), enabled });

export const refreshParties = (client: QueryClient) => refresh(client, batchKeys.jars, partyKeys.all);
