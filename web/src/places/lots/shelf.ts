/** Days between two days as 2026-11-25. */
export function daysBetween(from: string, to: string): number {
  return Math.round((Date.parse(`${to}T00:00:00Z`) - Date.parse(`${from}T00:00:00Z`)) / 86_400_000);
}

/** Where a day so many days from today stands on the shelf. */
export function placeOfDay(days: number): number {
  return 0.08 + 0.82 * (Math.log1p(days) / Math.log1p(180));
}

/** Where an end stands on the shelf, from 0 (past) to 1 (no end): days near today have room, those far away have little. */
export function placeOf(today: string, ends: string | undefined): number {
  if (!ends) return 1;
  const days = daysBetween(today, ends);
  if (days < 0) return 0.02;
  return Math.min(0.9, placeOfDay(days));
}

/** The marks under the shelf: days from today with their words. */
export const MARKS: [days: number, word: string][] = [
  [0, "today"],
  [7, "a week"],
  [30, "a month"],
  [180, "half a year"],
];

/** How a lot looks on the shelf: solid if it may be used, hatched if it waits, beet if it may not. */
export function lookOf(
  lot: { state: string; bar?: string; ends?: string; frozen?: boolean },
  today: string,
): "usable" | "soon" | "waits" | "barred" | "past" | "frozen" {
  if (lot.state === "waiting") return "waits";
  if (lot.bar) return "barred";
  if (lot.ends && lot.ends < today) return "past";
  if (lot.frozen) return "frozen";
  return lot.ends && daysBetween(today, lot.ends) <= 3 ? "soon" : "usable";
}
