import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";

import { keys, refresh } from "./keys";

export const useMeterChecks = () => useQuery({ queryKey: keys.meters.checks, queryFn: () => take(api.GET("/meter-checks")) });

/** A check or a closing look: readings rest on it. */
export const refreshMeters = (client: QueryClient) => refresh(client, keys.meters.checks, keys.batches.ones);
