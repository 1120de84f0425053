import type { Schemas } from "../../api/client";
import { type ByLaw, joined, type Tick, wordsFor } from "../allergens/marked";

export type Term = Schemas["AllergenTerm"];

/** What a word of the shop's own does to a list. */
export const MEANINGS = [
  ["names", "names what is in it"],
  ["betrays", "is a sign of it"],
  ["asks", "leaves it open"],
  ["hides", "means nothing"],
] as const;

export type Meaning = (typeof MEANINGS)[number][0];

/** The codes that a term says, by law. */
export function codesOfTerm(t: Term): ByLaw {
  return Object.fromEntries(Object.entries(t.says).map(([law, says]) => [law, (says ?? []).map((s) => s.code)]));
}

/** What a term does: it names, betrays, leaves open, or hides a misleading word inside it. */
export function meaningOf(t: Term): Meaning {
  const says = Object.values(t.says).flatMap((list) => list ?? []);
  if (says.length > 0) return says.every((s) => s.plainly) ? "names" : "betrays";
  return t.asks ? "asks" : "hides";
}

/** The term that words, what they do, the ticked allergens and a question make. */
export function termOf(words: string, meaning: Meaning, ticked: readonly Tick[], asks: string): Term {
  const term = words.trim().toLowerCase();
  if (meaning === "asks") return { words: term, says: {}, asks: asks.trim() };
  if (meaning === "hides") return { words: term, says: {} };
  const by = joined({}, ticked);
  const plainly = meaning === "names";
  return {
    words: term,
    says: Object.fromEntries(Object.entries(by).map(([law, codes]) => [law, codes.map((code) => ({ code, plainly }))])),
  };
}

/** A term in a sentence. */
export function termSays(t: Term, ticks: readonly Tick[]): string {
  const of = wordsFor(codesOfTerm(t), ticks).join(", ");
  switch (meaningOf(t)) {
    case "names":
      return `names ${of}`;
    case "betrays":
      return `is a sign of ${of}; the label adds the word in brackets`;
    case "asks":
      return `leaves open: ${t.asks}`;
  }
  return "means nothing, and hides a misleading word inside it";
}
