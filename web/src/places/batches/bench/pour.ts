import type { Schemas } from "../../../api/client";

export type Reading = Schemas["DeviceReading"];

/** How a reading moves: poured, and what stood there when the pour stopped. */
export interface Pour {
  /** g/s over the last readings. */
  rate: number;
  pouring: boolean;
  /** The reading when the last pour stopped, in grams; null where none was seen since the tare. */
  stopped: number | null;
}

export const STILL: Pour = { rate: 0, pouring: false, stopped: null };

/** Seconds over which a rate is measured. */
const WINDOW = 0.35;

/** Follows readings of a scale: when something is poured and when that stopped, by a rate that fell under a threshold. */
export class Follow {
  private seen: { at: number; g: number }[] = [];
  private now: Pour = STILL;

  constructor(private readonly division: number) {}

  /** Below so many g/s nothing is poured any more. */
  get threshold(): number {
    return Math.max(2, this.division * 8);
  }

  tare() {
    this.seen = [];
    this.now = STILL;
  }

  next(r: Reading): Pour {
    const at = new Date(r.at).getTime() / 1000;
    const last = this.seen.at(-1);
    if (last && at <= last.at) return this.now;
    this.seen = [...this.seen.filter((s) => at - s.at <= WINDOW * 2), { at, g: r.value }];
    const from = this.seen.find((s) => at - s.at <= WINDOW) ?? this.seen[0];
    const rate = at > from.at ? (r.value - from.g) / (at - from.at) : 0;
    const pouring = rate > this.threshold && !r.steady;
    let stopped = this.now.stopped;
    if (this.now.pouring && !pouring) stopped = r.value;
    if (!this.now.pouring && pouring) stopped = null;
    this.now = { rate, pouring, stopped };
    return this.now;
  }
}

/** Where to stop a pour so that it ends at the target: null where nobody knows how far it runs on, or it is there already. */
export function stopAt(target: number, lag: number | undefined, division: number): number | null {
  if (!lag || lag < division) return null;
  const at = target - lag;
  return at > 0 ? Math.round(at / division) * division : null;
}

/** So many decimals does a scale of a division show. */
export function decimals(division: number): number {
  if (!(division > 0)) return 1;
  return Math.max(0, Math.min(3, Math.ceil(-Math.log10(division) - 1e-9)));
}
