import type { Schemas } from "../../api/client";
import { type ByLaw, type Tick, wordsFor } from "./marked";

export type Change = Schemas["ChangeView"];

function all(c: Change, which: "gained" | "lost"): ByLaw {
  const out: ByLaw = {};
  for (const g of c.ingredients)
    for (const [law, codes] of Object.entries(g[which])) out[law] = [...new Set([...(out[law] ?? []), ...(codes ?? [])])];
  return out;
}

/** A change in words: who gained or lost what, and what it touches. */
export function changeWords(c: Change, ticks: readonly Tick[]): { title: string; touches: string; gained: string[]; lost: string[] } {
  const flag = (f: string) => `the flag ${f.replaceAll("_", " ")}`;
  const gained = [...wordsFor(all(c, "gained"), ticks), ...new Set(c.ingredients.flatMap((g) => g.flags_gained.map(flag)))];
  const lost = [...wordsFor(all(c, "lost"), ticks), ...new Set(c.ingredients.flatMap((g) => g.flags_lost.map(flag)))];
  const names = c.ingredients.map((g) => g.name);
  const who = names.length > 2 ? `${names.slice(0, 2).join(", ")} and ${names.length - 2} more` : names.join(" and ");
  const said = [gained.length > 0 && `gained ${gained.join(", ")}`, lost.length > 0 && `lost ${lost.join(", ")}`].filter(Boolean);
  const products = new Set(c.products.map((p) => p.name)).size;
  const n = (count: number, one: string, many: string) => `${count} ${count === 1 ? one : many}`;
  return {
    title: `${who} ${said.join(" and ")}`,
    touches: [
      n(products, "product", "products"),
      n(c.labels.length, "label", "labels"),
      c.called_back > 0 ? `${n(c.called_back, "batch", "batches")} called back` : "no batch called back",
    ].join(", "),
    gained,
    lost,
  };
}
