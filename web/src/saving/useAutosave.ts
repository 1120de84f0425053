import { useEffect, useSyncExternalStore } from "react";
import { type How, Saver, whyOf } from "./saver";
import { heard, unsaved } from "./unsaved";

// biome-ignore lint/suspicious/noExplicitAny: one shelf holds savers of every kind; each is asked for by its own key
const shelf = new Map<string, Saver<any, any>>();

/**
 * The one way to save what is typed in place: give it the thing as the server has it and how to send it; put what stands
 * on screen. The saver stays on the shelf until everything is stored, so that going elsewhere and coming back finds it.
 */
export function useAutosave<T, V>(key: string, view: V, how: How<T, V>): Saver<T, V> {
  let saver = shelf.get(key) as Saver<T, V> | undefined;
  if (!saver) {
    saver = new Saver(view, how);
    shelf.set(key, saver);
    watch(key, saver);
  }
  saver.how = how;
  const mine = saver;
  useSyncExternalStore(mine.subscribe, mine.snapshot);
  useEffect(() => mine.incoming(view), [mine, view]);
  // after the screen is gone, what is stored needs no saver
  useEffect(() => () => queueMicrotask(mine.watcher), [mine]);
  return mine;
}

/** What became of an autosave that needs a person, or waits for the server, is listed among what is not stored. */
// biome-ignore lint/suspicious/noExplicitAny: see shelf
function watch(key: string, saver: Saver<any, any>) {
  saver.watcher = () => {
    const { status, problem } = saver.held;
    const { what, link } = saver.how;
    if (status === "stored") heard(true);
    if (!saver.open) {
      unsaved(key, null);
      if (!saver.watched && shelf.get(key) === saver) shelf.delete(key);
      return;
    }
    const why = { away: whyOf(problem), clash: "changed meanwhile", asks: "a reason is needed", refused: problem?.title ?? "" };
    unsaved(key, {
      what,
      link,
      kept: true,
      away: status === "away",
      why: status in why ? why[status as keyof typeof why] : undefined,
      again: status === "away" ? saver.again : undefined,
    });
  };
}
