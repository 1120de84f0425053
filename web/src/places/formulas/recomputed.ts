import type { Schemas } from "../../api/client";
import type { Line } from "./useDraft";

export type Offer = Schemas["Recompute"];

/** The lines with what was offered for them; how their grams came about changes along. */
export function taken(lines: Line[], offers: Offer[]): Line[] {
  return lines.map((l) => {
    const o = offers.find((x) => x.line === l.id);
    return o && l.said
      ? { ...l, grams: o.then_g, said: { ...l.said, grams: o.then_g, source: o.source, spread_percent: o.spread_percent, how: o.how } }
      : l;
  });
}
