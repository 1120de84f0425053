import type { Schemas } from "../../api/client";

export type Line = Schemas["RecipeLine"];
export type Recipe = Schemas["RecipeView"];
export type Answer = Schemas["Answer"];
export type Question = Schemas["Question"];

/** How a role of a word is drawn. Never by colour alone: each has a line or a weight of its own. */
export const ROLES: Record<string, { style: string; says: string }> = {
  quantity: { style: "underline decoration-cobalt decoration-2 underline-offset-4", says: "amount" },
  unit: { style: "underline decoration-cobalt decoration-2 underline-offset-4", says: "measure" },
  size: { style: "underline decoration-cobalt decoration-dotted decoration-2 underline-offset-4", says: "size or heap" },
  ingredient: { style: "font-semibold", says: "ingredient" },
  preparation: { style: "italic underline decoration-leaf underline-offset-4", says: "preparation" },
  unread: { style: "underline decoration-wavy decoration-beet underline-offset-4 text-beet", says: "not understood" },
  corrected: { style: "line-through text-ink-3", says: "taken back" },
  cut: { style: "text-ink-2", says: "only cuts" },
  note: { style: "italic text-ink-2", says: "kept as a remark" },
  small: { style: "text-ink-2", says: "" },
  mark: { style: "text-ink-3", says: "mark of the list" },
};

/** The words of a line without the mark of the list in front. */
export function spoken(l: Line): string {
  const first = l.marks[0];
  const runes = Array.from(l.words);
  return (first?.role === "mark" && first.from === 0 && first.to < runes.length ? runes.slice(first.to) : runes).join("").trim();
}

interface Piece {
  text: string;
  role: string;
}

/** Cuts the words of a line into runs of one role; what no mark covers stays plain. */
export function pieces(words: string, marks: { from: number; to: number; role: string }[]): Piece[] {
  const runes = Array.from(words);
  const out: Piece[] = [];
  let at = 0;
  const push = (to: number, role: string) => {
    if (to > at) out.push({ text: runes.slice(at, to).join(""), role });
    at = Math.max(at, to);
  };
  for (const m of [...marks].sort((a, b) => a.from - b.from)) {
    push(Math.min(m.from, runes.length), "");
    push(Math.min(m.to, runes.length), m.role);
  }
  push(runes.length, "");
  return out;
}

/** Where grams come from, in words, and whether a scale said so. */
export const SOURCES: Record<string, { words: string; solid: boolean }> = {
  weighed: { words: "weighed by you", solid: true },
  guessed: { words: "guessed by you", solid: false },
  stated: { words: "as said", solid: true },
  house: { words: "your own measure", solid: false },
  reference: { words: "typical measure", solid: false },
  density: { words: "by density", solid: false },
  assumed: { words: "assumed water-like", solid: false },
};

/** Whether a line still asks something of the maker. */
export function isOpen(l: Line): boolean {
  if (l.as === "leave") return l.questions.some((q) => q.code === "also");
  return l.to_weigh || l.questions.length > 0;
}

/** The measure to be weighed, as it was said: a heaping spoon is weighed heaped. */
export function ownMeasure(l: Line): string {
  const heap = l.amount?.heap ?? "";
  return heap && heap !== "level" && heap !== "full" && !l.measure.endsWith(`_${heap}`) ? `${l.measure}_${heap}` : l.measure;
}

/** Mean and sample standard deviation in percent; null for fewer than two. */
export function spread(values: number[]): { mean: number; percent: number } | null {
  if (values.length < 2) return null;
  const mean = values.reduce((s, v) => s + v, 0) / values.length;
  const sd = Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / (values.length - 1));
  return { mean, percent: mean > 0 ? (100 * sd) / mean : 0 };
}
