import gb from "./words/en-GB.json";
import us from "./words/en-US.json";

type Listed = keyof typeof gb;
/** A word of the lists; one that counts is named without its plural's ending. */
export type Word = Listed extends infer K ? (K extends `${infer Stem}_${"zero" | "one" | "other"}` ? Stem : K) : never;

const lists: Record<string, Partial<Record<string, string>>> = { "en-GB": gb, "en-US": us };
const plurals = new Intl.PluralRules("en");
let words = lists["en-GB"];

/** Speaks by one of the lists; by the first where there is no such list. */
export function speak(english: string) {
  words = lists[english] ?? lists["en-GB"];
}

/** A word, or a phrase with its count, in the shop's own English. */
export function say(word: Word, values?: { count: number }): string {
  if (!values) return words[word] ?? word;
  const none = values.count === 0 ? words[`${word}_zero`] : undefined;
  const text = none ?? words[`${word}_${plurals.select(values.count)}`] ?? words[word] ?? word;
  return text.replaceAll("{{count}}", String(values.count));
}

/** What a date is called, by its kind. */
export function dateWord(kind: string): string {
  return say(kind === "use_by" ? "use_by" : "best_before");
}

/** A text that may be the name of a listed word: its word, or the text itself. */
export function wordOr(text: string): string {
  return text in gb ? say(text as Word) : text;
}

/** Begins with a capital. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
