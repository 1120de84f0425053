import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../client";
import type { paths } from "../schema";

import { keys, refresh } from "./keys";

export const useTrials = (formula: string) =>
  useQuery({
    queryKey: keys.trials.of(formula),
    queryFn: () => take(api.GET("/formulas/{id}/trials", { params: { path: { id: formula } } })),
  });

export const useStandard = (
  formula: string,
  choice: paths["/formulas/{id}/standard"]["post"]["requestBody"]["content"]["application/json"],
) =>
  useQuery({
    queryKey: keys.trials.standard(formula, choice),
    queryFn: () => take(api.POST("/formulas/{id}/standard", { params: { path: { id: formula } }, body: choice })),
    enabled: choice.trials.length >= 2,
    placeholderData: keepPreviousData,
    retry: false,
  });

/** A making was recorded or taken out. */
export async function refreshTrials(client: QueryClient, v: Schemas["TrialsView"]) {
  client.setQueryData(keys.trials.of(v.formula), v);
  await refresh(client, keys.trials.standards(v.formula), keys.formulas.sheetsOf(v.formula));
}
