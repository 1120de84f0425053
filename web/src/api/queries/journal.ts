import { useInfiniteQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import type { paths } from "../schema";

type Of = NonNullable<paths["/history"]["get"]["parameters"]["query"]>["of"];

/** Who changed what, the newest first. */
export const useHistory = (of: Of, id?: string) =>
  useInfiniteQuery({
    queryKey: ["history", of, id],
    queryFn: ({ pageParam }) => take(api.GET("/history", { params: { query: { of, id, before: pageParam || undefined } } })),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next || undefined,
    staleTime: 0,
  });
