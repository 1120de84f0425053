import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import type { paths } from "../schema";
import { keys } from "./keys";

type Of = NonNullable<paths["/history"]["get"]["parameters"]["query"]>["of"];
type RecordsOf = Omit<NonNullable<paths["/records"]["get"]["parameters"]["query"]>, "before">;
export type RecordsWhat = NonNullable<RecordsOf["what"]>;

/** Who changed what, the newest first. */
export const useHistory = (of: Of, id?: string) =>
  useInfiniteQuery({
    queryKey: keys.history.of(of, id),
    queryFn: ({ pageParam }) => take(api.GET("/history", { params: { query: { of, id, before: pageParam || undefined } } })),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next || undefined,
    staleTime: 0,
  });

/** The whole record of a batch, in its order. */
export const useStory = (batch: number) =>
  useQuery({
    queryKey: keys.history.story(batch),
    queryFn: () => take(api.GET("/batches/{id}/story", { params: { path: { id: batch } } })),
    staleTime: 0,
  });

/** What was written down on a day. */
export const useRecords = (ask: RecordsOf) =>
  useInfiniteQuery({
    queryKey: keys.history.records(ask),
    queryFn: ({ pageParam }) => take(api.GET("/records", { params: { query: { ...ask, before: pageParam || undefined } } })),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next || undefined,
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
