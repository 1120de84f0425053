import { type Reading, readQuantity } from "../../tongue/quantity";
import type { Choice } from "./gridParts";

/** Rows of a name and an amount, by tab, semicolon or blank: what was understood, and the rows that were not, as they were. */
export function readRows(text: string, choices: readonly Choice[]): { found: { choice: Choice; grams: number }[]; left: string[] } {
  const found: { choice: Choice; grams: number }[] = [];
  const left: string[] = [];
  for (const row of text.split(/\r?\n/).filter((r) => r.trim())) {
    const one = readRow(row.trim(), choices);
    if (one) found.push(one);
    else left.push(row);
  }
  return { found, left };
}

function readRow(row: string, choices: readonly Choice[]) {
  const lower = row.toLowerCase();
  const named = choices
    .flatMap((choice) => [choice.name, ...choice.called].map((name) => ({ choice, name })))
    .filter(({ name }) => lower.startsWith(name.toLowerCase()) && /^[\s;]/.test(row.slice(name.length)))
    .toSorted((a, b) => b.name.length - a.name.length);
  for (const { choice, name } of named) {
    const r = readQuantity(row.slice(name.length).replace(/^[\s;]+/, ""), { measure: "mass", density: choice.density });
    if (r.kind === "value") return { choice, grams: r.value };
  }
  return null;
}

/** Why a pasted column was not taken: the first row that is none, in its own words. */
export function whyNone(read: readonly Reading[]): string {
  const i = read.findIndex((r) => r.kind !== "value");
  const r = read[i];
  const why = r.kind === "empty" ? "it is empty" : r.kind === "value" ? "" : r.why;
  return `Row ${i + 1}: ${why}. None of it was taken`;
}
