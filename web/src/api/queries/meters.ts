import { type QueryClient, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { batchKeys } from "./batches";
import { refresh } from "./keys";

const meterKeys = { checks: ["meter-checks"] as const };

export const useMeterChecks = () => useQuery({ queryKey: meterKeys.checks, queryFn: () => take(api.GET("/meter-checks")) });

/** A check or a closing look: readings rest on it. */
export const refreshMeters = (client: QueryClient) => refresh(client, meterKeys.checks, batchKeys.ones);
