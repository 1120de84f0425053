import type { Schemas } from "../../../api/client";

export type Logged = Schemas["Logged"];
export type Trial = Schemas["TrialView"];

/** What may go into a bowl: a line of the sheet, or something else. */
export interface Thing {
  key: string;
  name: string;
  ingredient?: string;
  component?: Schemas["VersionRef"] | null;
  sheet: number | null; // grams on the sheet
}

export const keyOf = (l: { ingredient?: string; component?: Schemas["VersionRef"] | null }) =>
  l.component ? `formula:${l.component.formula}` : (l.ingredient ?? "");

/** Grams of a thing so far, what stood in for it among them. */
export function soFar(log: Logged[], key: string): number {
  return log.reduce((sum, e) => (e.kind !== "tasted" && (e.instead_of || keyOf(e)) === key ? sum + e.grams : sum), 0);
}

/** The lines of the sheet, and after them what else went in, in the order in which it first did. */
export function things(lines: Schemas["FormulaLine"][], log: Logged[], names: Record<string, string>): Thing[] {
  const out: Thing[] = [];
  const add = (l: { ingredient?: string; component?: Schemas["VersionRef"] | null }, sheet: number | null) => {
    const key = keyOf(l);
    const at = out.find((x) => x.key === key);
    if (at) at.sheet = sheet == null ? at.sheet : (at.sheet ?? 0) + sheet;
    else out.push({ key, name: names[key] ?? key, ingredient: l.ingredient, component: l.component, sheet });
  };
  for (const l of lines) add(l, l.grams);
  for (const e of log) if (e.kind !== "tasted" && !e.instead_of) add(e, null);
  return out;
}

/** What an entry of the log says, in a sentence without its full stop. */
export function told(e: Logged, names: Record<string, string>, num: (n: number, places: number) => string): string {
  if (e.kind === "tasted") return `tasted: ${e.words}`;
  const what = `${num(e.grams, 1)} g ${names[keyOf(e)] ?? keyOf(e)}`;
  const instead = e.instead_of ? `, instead of ${names[e.instead_of] ?? e.instead_of}` : "";
  return e.kind === "added" ? `added ${what}${instead}: ${e.reason}` : `${what}${instead} went in`;
}

/** Reasons and tastes that are one tap away. */
export const REASONS = ["too flat", "too sharp", "not salty enough", "too thick", "too thin", "too mild"];
export const TASTES = ["just right", "flat", "too sharp", "too salty", "too thick", "too thin"];

/** Writes an entry into the log, and then what is to be done once it is stored. */
export type Note = (e: Logged, done: () => void) => Promise<void>;
