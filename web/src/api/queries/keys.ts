import type { QueryClient, QueryKey } from "@tanstack/react-query";

/** Where each answer of the server is kept. A longer key stands under a shorter one: what refreshes a list refreshes its parts. */
export const keys = {
  allergens: {
    open: ["allergens", "open"],
    changes: ["allergens", "changes"],
    change: (id: string) => ["allergens", "changes", id],
    vessels: ["vessels"],
    packet: (text: string) => ["packet", text],
  },
  backups: { all: ["backups"] },
  batches: {
    lists: ["batches"],
    list: (state?: string) => ["batches", "list", state ?? "all"],
    found: (find: string) => ["batches", "find", find],
    dates: ["batches", "dates"],
    ones: ["batch"],
    one: (id: number) => ["batch", id],
    lots: (id: number) => ["batch", id, "lots"],
    cost: (id: number) => ["batch", id, "cost"],
    variance: (id: number) => ["batch", id, "variance"],
    bowl: (id: number) => ["bowl", id],
    rested: (id: number, entry: number) => ["rested", id, entry],
    print: (id: number, entry: number) => ["print", id, entry],
    jars: ["jars"],
    lags: ["lags"],
    plan: (ask: unknown) => ["plan", ask],
    planOf: (id: number) => ["plan of", id],
    rehearsal: (formula: string, version: number) => ["rehearse", formula, version],
    addition: (id: number, load: number, ingredient: string, grams: number | null) => ["addition", id, load, ingredient, grams],
  },
  /** what jars cost, and what batches cost against their standards */
  costs: {
    all: ["costs"],
    of: (id: string, number: number, ask: unknown) => ["costs", id, number, ask],
    variances: (id: string) => ["costs", "variances", id],
  },
  devices: { all: ["devices"] },
  evidence: { all: ["evidence"], of: (formula: string) => ["evidence", formula] },
  rules: { all: ["rules"] },
  formulas: {
    all: ["formulas"],
    sheets: ["sheet"],
    sheetsOf: (formula: string) => ["sheet", formula],
    /** number 0 is the version to begin with: the draft, or the newest locked one. */
    sheet: (formula: string, number: number) => ["sheet", formula, number],
    lock: (formula: string, version: number) => ["lock", formula, version],
    beforeLock: (formula: string, version: number) => ["before-lock", formula, version],
    swap: (...of: unknown[]) => ["swap", ...of],
    compare: (...of: unknown[]) => ["compare", ...of],
    family: (formula: string) => ["family", formula],
    side: (shown: unknown) => ["side", shown],
    rebase: (formula: string) => ["rebase", formula],
    atSize: (formula: string, version: number, jars: number | null) => ["at-size", formula, version, jars],
  },
  history: {
    of: (of: string, id?: string) => ["history", of, id],
    story: (batch: number) => ["story", batch],
    records: (ask: unknown) => ["records", ask],
  },
  labels: { lists: ["labels"], of: (id: number) => ["label", id], one: (id: number, batch: number) => ["label", id, batch] },
  lots: {
    lists: ["lots"],
    list: (show: string, find: string) => ["lots", show, find],
    found: (find: string) => ["lots", "find", find],
    of: (of: unknown) => ["lots", "of", of],
    stock: ["stock"],
    one: (id: number) => ["lot", id],
  },
  meters: { checks: ["meter-checks"] },
  pantry: { all: ["pantry"], ones: ["ingredient"], one: (id: string) => ["ingredient", id] },
  parties: { all: ["parties"] },
  people: { session: ["session"], all: ["people"] },
  preparations: {
    all: ["preparations"],
    routes: (id: string, rev: number, body: unknown) => ["routes", id, rev, body],
    lessWater: (id: string, rev: number) => ["less-water", id, rev],
  },
  reader: { lists: ["recipes"], list: ["recipes", "list"], ones: ["recipe"], one: (id: number) => ["recipe", id], words: ["words"] },
  recalls: { all: ["recalls"], one: (id: number) => ["recall", id] },
  shop: { all: ["shop"] },
  today: { all: ["today"] },
  traces: { of: (of: unknown) => ["trace", of] },
  trials: {
    of: (formula: string) => ["trials", formula],
    standards: (formula: string) => ["standard", formula],
    standard: (formula: string, choice: unknown) => ["standard", formula, choice],
  },
};

/** Reads these keys again: at once where a screen shows them, otherwise when they are next shown. */
export function refresh(client: QueryClient, ...of: QueryKey[]): Promise<unknown> {
  return Promise.all(of.map((queryKey) => client.invalidateQueries({ queryKey })));
}

/** After an act that reaches everywhere: a batch planned, a delivery taken in, other hands at the bench. */
export function refreshAll(client: QueryClient): Promise<void> {
  return client.invalidateQueries();
}

/** Marks as stale without reading again: typing a gram must not fetch every list. */
export function age(client: QueryClient, ...of: QueryKey[]) {
  for (const queryKey of of) void client.invalidateQueries({ queryKey, refetchType: "none" });
}
