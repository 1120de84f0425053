import i18next from "i18next";
import gb from "./words/en-GB.json";
import us from "./words/en-US.json";

type Listed = keyof typeof gb;
/** A word of the lists; one that counts is named without its plural's ending. */
export type Word = Listed extends infer K ? (K extends `${infer Stem}_${"zero" | "one" | "other"}` ? Stem : K) : never;

const lists = i18next.createInstance({
  resources: { "en-GB": { translation: gb }, "en-US": { translation: us } },
  lng: "en-GB",
  fallbackLng: false,
  interpolation: { escapeValue: false },
  initAsync: false,
});
void lists.init();

/** Speaks by one of the lists; by the first where there is no such list. */
export function speak(english: string) {
  void lists.changeLanguage(lists.hasResourceBundle(english, "translation") ? english : "en-GB");
}

/** A word, or a phrase with its count, in the shop's own English. */
export function say(word: Word, values?: { count: number }): string {
  return lists.t(word, values ?? {});
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
