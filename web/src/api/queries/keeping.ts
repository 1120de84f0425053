import { useQuery } from "@tanstack/react-query";
import { api, take } from "../client";

const evidence = ["evidence"] as const;

export const useRules = () => useQuery({ queryKey: ["rules"], queryFn: () => take(api.GET("/rules")) });

export const useEvidence = () => useQuery({ queryKey: evidence, queryFn: () => take(api.GET("/evidence")) });

export const useEvidenceOf = (formula: string) =>
  useQuery({ queryKey: [...evidence, formula], queryFn: () => take(api.GET("/evidence", { params: { query: { formula } } })) });
