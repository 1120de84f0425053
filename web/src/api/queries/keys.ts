import type { QueryClient, QueryKey } from "@tanstack/react-query";

/** Reads anew what these keys hold, where a screen shows it now; the rest when it is looked at. */
export function refresh(client: QueryClient, ...keys: QueryKey[]): Promise<unknown> {
  return Promise.all(keys.map((queryKey) => client.invalidateQueries({ queryKey })));
}

/** After an act that reaches everywhere: a batch planned, a delivery taken in, other hands at the bench. */
export function refreshAll(client: QueryClient): Promise<void> {
  return client.invalidateQueries();
}

/** Marks as old without reading anew: typing a gram must not ask for every list. */
export function age(client: QueryClient, ...keys: QueryKey[]) {
  for (const queryKey of keys) void client.invalidateQueries({ queryKey, refetchType: "none" });
}
