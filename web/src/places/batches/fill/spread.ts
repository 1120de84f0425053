import type { Schemas } from "../../../api/client";

export type NetRule = Schemas["NetRule"];

interface Range {
  from: number;
  to: number;
}

/** The limits of a rule in grams; null where the law or the shop has none. */
export function limitsOf(r: NetRule): { t1: number | null; t2: number | null } {
  if (!(r.short_g > 0)) return { t1: null, t2: null };
  return { t1: r.nominal_g - r.short_g, t2: r.twice ? r.nominal_g - 2 * r.short_g : null };
}

/** What the drawing shows of the scale: limits, label, aim and every jar, with some room. */
export function rangeOf(r: NetRule, nets: readonly number[]): Range {
  const { t1, t2 } = limitsOf(r);
  const all = [r.nominal_g, r.aim_g, ...nets, ...[t1, t2].filter((x) => x !== null)];
  const from = Math.min(...all);
  const to = Math.max(...all);
  const room = Math.max(1, (to - from) * 0.08);
  return { from: from - room, to: to + room };
}

interface Dot {
  net: number;
  /** Counted from 1, as they were weighed. */
  jar: number;
  /** How many stand below it at the same place. */
  row: number;
}

/** Jars side by side on the scale; those nearer than a dot is wide stand on each other. */
export function dotsOf(nets: readonly number[], width: number): Dot[] {
  const rows: number[] = []; // the last place taken in each row
  return nets
    .map((net, i) => ({ net, jar: i + 1 }))
    .toSorted((x, y) => x.net - y.net)
    .map((d) => {
      let row = rows.findIndex((last) => d.net - last >= width);
      if (row < 0) row = rows.length;
      rows[row] = d.net;
      return { ...d, row };
    });
}

export const mean = (nets: readonly number[]) => nets.reduce((a, b) => a + b, 0) / nets.length;

export function deviation(nets: readonly number[]): number {
  if (nets.length < 2) return 0;
  const m = mean(nets);
  return Math.sqrt(nets.reduce((sum, x) => sum + (x - m) ** 2, 0) / (nets.length - 1));
}

/** Where a slot stands that the next weight of the scale goes into; -1 where all are taken. */
export const nextEmpty = (slots: readonly (number | null)[]) => slots.indexOf(null);

export interface Gone {
  residue: number;
  samples: number;
}

type Balance = Schemas["Balance"];

/** The balance with other words on what was left over: what it will be once they are stored. */
export function balanceWith(b: Balance, g: Gone): Balance {
  const unexplained = b.in_g - b.jars_g - b.spilt_g - b.elsewhere_g - g.residue - g.samples;
  const percent = b.in_g > 0 ? (100 * unexplained) / b.in_g : 0;
  return {
    ...b,
    residue_g: g.residue,
    samples_g: g.samples,
    unexplained_g: unexplained,
    unexplained_percent: percent,
    asks_reason: percent > 3,
    impossible: percent < -2,
  };
}
