import { useQuery } from "@tanstack/react-query";
import { api, take } from "../client";

export type TraceOf = { lot?: number; batch?: number; code?: string };

export const traceKeys = { trace: (of: TraceOf) => ["trace", of] as const };

export const useTrace = (of: TraceOf) =>
  useQuery({
    queryKey: traceKeys.trace(of),
    queryFn: () => take(api.GET("/trace", { params: { query: of } })),
    enabled: !!(of.lot || of.batch || of.code),
    refetchOnMount: "always",
    retry: false,
  });
