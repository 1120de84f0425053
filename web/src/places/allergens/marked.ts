import type { Schemas } from "../../api/client";

export type TextMark = Schemas["TextMark"];
export type Tick = Schemas["ShopView"]["ticks"][number];
export type ByLaw = Record<string, string[]>;

/** A run of a text with what its words say; without a mark it says nothing. */
interface Run {
  text: string;
  mark?: TextMark;
}

/** Cuts a text into runs by its marks; of marks that overlap the earlier keeps its letters. */
export function runsOf(text: string, marks: readonly TextMark[]): Run[] {
  const out: Run[] = [];
  let at = 0;
  for (const m of [...marks].sort((a, b) => a.start - b.start || b.end - a.end)) {
    const start = Math.max(at, m.start);
    if (start >= m.end || m.end > text.length) continue;
    if (start > at) out.push({ text: text.slice(at, start) });
    out.push({ text: text.slice(start, m.end), mark: m });
    at = m.end;
  }
  if (at < text.length) out.push({ text: text.slice(at) });
  return out;
}

/** The codes that marks say, by law; statements of what it may contain are no ingredients. */
export function codesOf(marks: readonly TextMark[], kind: "in" | "states" = "in"): ByLaw {
  const out: ByLaw = {};
  for (const m of marks) {
    if ((m.kind === "states") !== (kind === "states")) continue;
    for (const [law, codes] of Object.entries(m.allergens)) {
      out[law] ??= [];
      for (const c of codes ?? []) if (!out[law].includes(c)) out[law].push(c);
    }
  }
  return out;
}

/** Whether codes include a tick: one of its codes under a law, or the kind of fish it leaves open. */
export function told(tick: Tick, by: ByLaw): boolean {
  return Object.entries(tick.codes).some(([law, code]) => {
    const [base, kind] = code.split(":");
    return (by[law] ?? []).some((c) => c === code || (kind === "species not named" && c.startsWith(`${base}:`)));
  });
}

/** The codes by law of ticks and of words together. A fish that is named takes the place of one that is not. */
export function joined(words: ByLaw, ticks: readonly Tick[], kinds: Record<string, string> = {}): ByLaw {
  const out: ByLaw = {};
  for (const [law, codes] of Object.entries(words)) out[law] = [...codes];
  for (const t of ticks)
    for (const [law, code] of Object.entries(t.codes)) {
      const [base, kind] = code.split(":");
      const named = kinds[t.word]?.trim().toLowerCase();
      const own = kind === "species not named" && named ? `${base}:${named}` : code;
      out[law] ??= [];
      if (kind === "species not named" && !named && out[law].some((c) => c.startsWith(`${base}:`))) continue;
      if (!out[law].includes(own)) out[law].push(own);
    }
  return out;
}

/** Words for codes, each allergen once over all laws. */
export function wordsFor(by: ByLaw, ticks: readonly Tick[]): string[] {
  const out: string[] = [];
  for (const t of ticks) if (told(t, by)) out.push(t.word);
  return out;
}

/** The questions that marks leave open, each once; cross-contact is assessed in its own place. */
export function asksOf(marks: readonly TextMark[]): string[] {
  return [...new Set(marks.map((m) => m.asks).filter((a) => a && a !== "may contain"))].sort();
}

/** An allergen's code under a law as a person calls it. */
export function wordOfCode(code: string, law: string, ticks: readonly Tick[]): string {
  return ticks.find((t) => t.codes[law] === code)?.word ?? code;
}

/** The code of what a person calls an allergen. What no tick matches is passed on as typed, for the law to refuse. */
export function codeOfWord(word: string, law: string, ticks: readonly Tick[]): string {
  const w = word.trim().toLowerCase();
  return ticks.find((t) => t.word.toLowerCase() === w && t.codes[law])?.codes[law] ?? w;
}
