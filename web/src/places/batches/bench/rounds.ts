import type { Entry } from "../../../saving/outbox";
import type { LoadState } from "./desk";

/** One line of a rehearsal, against what was to go in at its pour. */
export interface Shot {
  line: string;
  name: string;
  target: number;
  grams: number;
  /** Percent off, over positive. */
  off: number;
}

/** A rehearsal that was gone through to its end. */
export interface Round {
  at: string;
  shots: Shot[];
  /** Mean of how far off the pours were, in percent. */
  mean: number;
  over: number;
  tastes: number;
}

/** What each capture was meant to be and came to: the target that stood when it was taken. */
export function shot(load: LoadState, capture: NonNullable<Entry["capture"]>): Shot | null {
  const l = load.lines.find((x) => x.line === capture.line);
  if (!l) return null;
  const target = l.now_g - l.in_g;
  if (target <= 0) return null;
  return { line: l.line, name: l.name, target, grams: capture.grams, off: (100 * (capture.grams - target)) / target };
}

export function roundOf(at: string, shots: Shot[], choices: number, tastes: number): Round {
  const mean = shots.length === 0 ? 0 : shots.reduce((s, x) => s + Math.abs(x.off), 0) / shots.length;
  return { at, shots, mean, over: choices, tastes };
}

/** How pours went at the beginning and at the end: the mean of the first and of the last third. */
export function better(shots: readonly Shot[]): { first: number; last: number } | null {
  const third = Math.floor(shots.length / 3);
  if (third < 1) return null;
  const mean = (list: readonly Shot[]) => list.reduce((s, x) => s + Math.abs(x.off), 0) / list.length;
  return { first: mean(shots.slice(0, third)), last: mean(shots.slice(-third)) };
}
