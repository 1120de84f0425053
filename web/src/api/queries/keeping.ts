import { useQuery } from "@tanstack/react-query";
import { api, take } from "../client";
import { keys } from "./keys";

export const useRules = () => useQuery({ queryKey: keys.rules.all, queryFn: () => take(api.GET("/rules")) });

export const useEvidence = () => useQuery({ queryKey: keys.evidence.all, queryFn: () => take(api.GET("/evidence")) });

export const useEvidenceOf = (formula: string) =>
  useQuery({ queryKey: keys.evidence.of(formula), queryFn: () => take(api.GET("/evidence", { params: { query: { formula } } })) });
