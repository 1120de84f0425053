import { useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { keys } from "./keys";

export type TraceOf = { lot?: number; batch?: number; code?: string };

export const useTrace = (of: TraceOf) =>
  useQuery({
    queryKey: keys.traces.of(of),
    queryFn: () => take(api.GET("/trace", { params: { query: of } })),
    enabled: !!(of.lot || of.batch || of.code),
    refetchOnMount: "always",
    retry: false,
  });
