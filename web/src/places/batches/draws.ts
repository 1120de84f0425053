import { readQuantity, shown } from "../../tongue/quantity";

/** A lot as it may stand behind a line, as far as weighing needs it. */
export interface Shelf {
  code: string;
  reaches_g: number;
  why_not: string;
}

/** One lot of a line as it is typed. */
export interface DrawText {
  code: string;
  grams: string;
  reason: string;
}

const near = (n: number) => Number(n.toFixed(3));

/** Grams as they are typed beside a lot; null is none. */
function gramsOf(text: string): number | null {
  const r = readQuantity(text, { measure: "mass" });
  return r.kind === "value" ? r.value : null;
}

/**
 * The lots that are proposed for so many grams: what is to be used first first, several where one does not reach. Where
 * all of them together do not reach, the last carries the rest, and the stock will show less than nothing.
 */
export function propose(grams: number, shelf: readonly Shelf[]): DrawText[] {
  const usable = shelf.filter((s) => s.why_not === "" && s.reaches_g > 0);
  const out: DrawText[] = [];
  let left = grams;
  for (const s of usable) {
    if (left <= 0) break;
    const part = near(Math.min(left, s.reaches_g));
    out.push({ code: s.code, grams: shown(part), reason: "" });
    left = near(left - part);
  }
  const last = out.at(-1);
  if (last && left > 0) last.grams = shown(near((gramsOf(last.grams) ?? 0) + left));
  return out;
}

/** The lots as they are sent: a single one takes all the grams. A text that is no number counts as nothing. */
export function asDraws(draws: readonly DrawText[], grams: number) {
  const named = draws.filter((d) => d.code.trim() !== "");
  return named.map((d) => ({
    code: d.code.trim(),
    grams: named.length === 1 ? grams : (gramsOf(d.grams) ?? 0),
    ...(d.reason.trim() ? { reason: d.reason.trim() } : {}),
  }));
}

/** What the lots add up to; null while only one is named, which takes all. */
export function sumOf(draws: readonly DrawText[]): number | null {
  const named = draws.filter((d) => d.code.trim() !== "");
  if (named.length < 2) return null;
  return near(named.reduce((s, d) => s + (gramsOf(d.grams) ?? 0), 0));
}
