import type { Schemas } from "../../api/client";

/** How many days the strip shows: six weeks. */
const SHOWN = 42;

/** A day so many days after another. Days are 2026-11-25. */
export function dayAfter(day: string, by: number): string {
  const d = new Date(`${day}T12:00:00Z`);
  d.setUTCDate(d.getUTCDate() + by);
  return d.toISOString().slice(0, 10);
}

/** The days of the strip, the last of them today or three weeks after the day that is looked at, each with how much it has. */
export function strip(days: readonly Schemas["DayCount"][], day: string, today: string): { day: string; count: number; monday: boolean }[] {
  const middle = dayAfter(day, SHOWN / 2);
  const last = middle < today ? middle : today > day ? today : day;
  const counts = new Map(days.map((d) => [d.day, d.count]));
  return Array.from({ length: SHOWN }, (_, i) => {
    const at = dayAfter(last, i + 1 - SHOWN);
    return { day: at, count: counts.get(at) ?? 0, monday: new Date(`${at}T12:00:00Z`).getUTCDay() === 1 };
  });
}
