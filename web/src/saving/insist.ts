import { newKey, problemOf } from "../api/client";
import { acting, onHands } from "../api/guard";
import { Again } from "./again";
import { unanswered, whyOf } from "./saver";
import { unsaved } from "./unsaved";

/** Keys of acts whose answer has not come, by who asks what: trying again, by hand or by itself, is the same act. */
const keys = new Map<string, string>();

/** The key of one act. It stays until the act is answered, and is the same for the same act pressed again meanwhile. */
function keyOf(errand: string): string {
  const own = `${acting()} ${errand}`;
  const key = keys.get(own) ?? newKey();
  keys.set(own, key);
  return key;
}

/** Runs an act under its key; an answer, good or bad, ends it. */
export async function underKey<T>(errand: string, act: (key: string) => Promise<T>): Promise<T> {
  const own = `${acting()} ${errand}`;
  try {
    const done = await act(keyOf(errand));
    keys.delete(own);
    return done;
  } catch (e) {
    if (!unanswered(problemOf(e))) keys.delete(own);
    throw e;
  }
}

/** Waits until somebody is here again. */
function back(name: string): Promise<void> {
  return new Promise((go) => {
    const end = onHands(() => {
      if (acting() !== name) return;
      end();
      go();
    });
  });
}

/**
 * Sends what was weighed, measured or counted until it is answered, under one key and as who did it, and says so meanwhile.
 * For what is a fact whenever it arrives, never for what a person decides.
 */
export async function insist<T>(what: string, errand: string, act: (key: string) => Promise<T>): Promise<T> {
  const id = `insist ${errand}`;
  const again = new Again();
  const by = acting();
  for (;;) {
    if (acting() !== by) {
      unsaved(id, { what, kept: true, why: `it waits here for ${by}` });
      await back(by);
    }
    try {
      const done = await underKey(errand, act);
      unsaved(id, null);
      return done;
    } catch (e) {
      const p = problemOf(e);
      if (!unanswered(p)) {
        unsaved(id, null);
        throw e;
      }
      unsaved(id, { what, kept: true, away: true, why: whyOf(p), again: again.now });
    }
    await again.rest();
  }
}
