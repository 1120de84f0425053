import type { Problem, Schemas } from "../../../api/client";
import type { MakeUp } from "../../../parts/makeup";
import type { Entry, Waiting } from "../../../saving/outbox";

export type LoadState = Schemas["LoadState"];
export type BenchLine = Schemas["BenchLine"];
export type ErrandState = Schemas["ErrandState"];
export type Candidate = Schemas["LotCandidate"];
export type Device = Schemas["DeviceView"];
export type Cooling = Schemas["Cooling"];

/** What the bench works with: a batch, which is recorded, or a rehearsal, which is not. */
export interface Desk {
  title: string;
  code: string;
  batch: number;
  loads: readonly LoadState[];
  planned: Schemas["Planned"] | null;
  parts: Record<string, MakeUp>;
  cooling: readonly Cooling[];
  expected: number;
  closed: string; // why nothing is weighed any more; empty: it is
  waiting: readonly Waiting[];
  /** The lots for a line, what is to be used first first; null where none is asked. */
  lotsFor: (line: string) => readonly Candidate[] | null;
  /** How far a class of things runs on after its pour. */
  lagOf: (cls: string | undefined) => number | undefined;
  devices: readonly Device[];
  /** A fact of the bench: kept on the tablet and sent until it is safe. */
  fact: (entry: Entry, what: string) => void;
  /** What a person decides: sent once, and answered. */
  decide: (entry: Entry) => Promise<Problem | null>;
  letGo: (key: string) => void;
  rehearsal: boolean;
  back: string;
}

/** The captures of a line in a load that are kept on this tablet and not safe yet, in grams. */
export function waitingFor(desk: Pick<Desk, "waiting">, load: number, line: string): number {
  let g = 0;
  for (const w of desk.waiting) {
    const c = w.entry.capture;
    if (c && !w.refused && c.load === load && c.line === line) g += c.grams;
  }
  return g;
}

/**
 * The reading of a scale from which the next weight of a load counts: what the batch knows, and what waits on this
 * tablet after it; null where the scale is to be tared first.
 */
export function zeroOf(desk: Pick<Desk, "waiting">, load: Pick<LoadState, "no" | "zero">, scale: string): number | null {
  let zero = load.zero ? { scale: load.zero.scale, at: load.zero.reading_g } : null;
  for (const { entry, refused } of desk.waiting) {
    if (refused) continue;
    const { tared, capture } = entry;
    if (tared?.load === load.no && tared.reading_g !== null) zero = { scale: tared.scale, at: tared.reading_g };
    if (capture?.load === load.no)
      zero = capture.scale && typeof capture.reading_g === "number" ? { scale: capture.scale, at: capture.reading_g } : null;
  }
  return zero?.scale === scale ? zero.at : null;
}

/** How a line stands, with what waits on this tablet: it may be full before the server knows. */
export function stands(desk: Pick<Desk, "waiting">, load: number, l: BenchLine): { in: number; state: string; safe: boolean } {
  const more = waitingFor(desk, load, l.line);
  if (more === 0) return { in: l.in_g, state: l.state, safe: true };
  const now = l.in_g + more;
  let state = l.state;
  if (l.state === "open" && now >= l.low_g - 1e-9)
    state = now > l.high_g + 1e-9 && l.held_g <= 0 ? "over" : l.held_g > 0 ? "taste" : "done";
  return { in: now, state, safe: false };
}

/** The first thing to do in a load: a line that asks, else a line that is open. */
export function nextLine(desk: Pick<Desk, "waiting">, load: LoadState): BenchLine | undefined {
  const of = (state: string) => load.lines.find((l) => stands(desk, load.no, l).state === state);
  const firstOpen = load.lines.find((l) => ["open", "taste", "over"].includes(stands(desk, load.no, l).state));
  return of("over") ?? firstOpen;
}

/** What goes before anything is weighed in. */
export const firstErrands = (load: LoadState): ErrandState[] => load.errands.filter((e) => e.first);
