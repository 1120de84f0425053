import { type ComponentType, lazy } from "react";
import { heard } from "../saving/unsaved";

/** How long to wait before a screen that could not be fetched is asked for again, in ms. */
const AGAIN_MS = 2000;

/**
 * A screen that is fetched when it is first shown. One that cannot be fetched because the server is away comes once it
 * is back; what is typed elsewhere is not lost by it.
 */
export function later<P>(load: () => Promise<{ default: ComponentType<P> }>) {
  return lazy(async () => {
    for (;;) {
      try {
        return await load();
      } catch {
        heard(false);
        await new Promise((go) => setTimeout(go, AGAIN_MS));
      }
    }
  });
}
