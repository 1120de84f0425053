import { useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { keys } from "./keys";

const read = { queryKey: keys.today.all, queryFn: () => take(api.GET("/today")) };

export const useToday = () => useQuery({ ...read, refetchOnMount: "always" });

/** The count in the spine: now and then is enough. */
export const useTodayCount = () => useQuery({ ...read, staleTime: 60_000, refetchInterval: 120_000 });
