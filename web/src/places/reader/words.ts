import type { Schemas } from "../../api/client";
import { say } from "../../tongue/words";

export type Word = Schemas["ShopWord"];

/** A measure as people say it. */
const unitWords = (unit: string) => (unit === "can" ? say("tin") : unit.replaceAll("_", " "));

/** What a word of the shop means, in a sentence without its full stop. */
export function meaning(w: Word, num: (n: number, places: number) => string): string {
  const measure = [w.size, unitWords(w.unit ?? "")].filter(Boolean).join(" ");
  const of = w.name ? ` of ${w.name}` : "";
  switch (w.kind) {
    case "pack":
      return `a ${measure}${of} is ${num(w.grams ?? 0, 0)} g`;
    case "fill":
      return `a cup${of} is ${w.fill}`;
    case "volume":
      return `a ${measure}${of} holds ${num(w.ml ?? 0, 1)} mL`;
    default:
      return `“${w.words}” means ${w.name}`;
  }
}
