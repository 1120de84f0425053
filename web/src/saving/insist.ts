import { newKey, problemOf } from "../api/client";
import { Again } from "./again";
import { unanswered } from "./saver";
import { unsaved } from "./unsaved";

/** Keys of acts whose answer has not come, by what they ask: trying again, by hand or by itself, is the same act. */
const keys = new Map<string, string>();

/** The key of one act. It stays until the act is answered, and is the same for the same act pressed again meanwhile. */
export function keyOf(errand: string): string {
  const key = keys.get(errand) ?? newKey();
  keys.set(errand, key);
  return key;
}

/** Runs an act under its key; an answer, good or bad, ends it. */
export async function underKey<T>(errand: string, act: (key: string) => Promise<T>): Promise<T> {
  const key = keyOf(errand);
  try {
    const done = await act(key);
    keys.delete(errand);
    return done;
  } catch (e) {
    if (!unanswered(problemOf(e))) keys.delete(errand);
    throw e;
  }
}

/**
 * Sends what was weighed, measured or counted until it is answered, under one key, and says so meanwhile. For what is a
 * fact whenever it arrives, never for what a person decides.
 */
export async function insist<T>(what: string, errand: string, act: (key: string) => Promise<T>): Promise<T> {
  const id = `insist ${errand}`;
  const again = new Again();
  for (;;) {
    try {
      const done = await underKey(errand, act);
      unsaved(id, null);
      return done;
    } catch (e) {
      if (!unanswered(problemOf(e))) {
        unsaved(id, null);
        throw e;
      }
    }
    unsaved(id, { what, kept: true, away: true, why: "Gallipot does not answer", again: again.now });
    await again.rest();
  }
}
