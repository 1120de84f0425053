import { useCallback, useRef, useSyncExternalStore } from "react";
import { unsaved } from "./unsaved";

/** What is typed and not sent yet, by its place. It outlives its screen and a reload of the window. */
const held = new Map<string, unknown>();
const listeners = new Set<() => void>();
const PREFIX = "typed ";

for (const key of Object.keys(sessionStorage)) {
  if (!key.startsWith(PREFIX)) continue;
  try {
    held.set(key.slice(PREFIX.length), JSON.parse(sessionStorage.getItem(key) ?? ""));
  } catch {
    sessionStorage.removeItem(key);
  }
}

function tell() {
  for (const l of listeners) l();
}

export function keep(key: string, value: unknown, what: string) {
  if (value === undefined) {
    held.delete(key);
    sessionStorage.removeItem(PREFIX + key);
    unsaved(`kept ${key}`, null);
  } else {
    held.set(key, value);
    sessionStorage.setItem(PREFIX + key, JSON.stringify(value));
    unsaved(`kept ${key}`, { what, kept: true });
  }
  tell();
}

const subscribe = (l: () => void) => {
  listeners.add(l);
  return () => {
    listeners.delete(l);
  };
};

/**
 * State of a form that is not sent yet: [value, set, done]. It is still there after another step, another page or a reload;
 * done lets it go once it is stored.
 */
export function useKept<T>(key: string, initial: T, what: string): [T, (next: T | ((old: T) => T)) => void, () => void] {
  const first = useRef(initial);
  first.current = initial;
  const value = useSyncExternalStore(subscribe, () => (held.has(key) ? (held.get(key) as T) : undefined));
  const set = useCallback(
    (next: T | ((old: T) => T)) => {
      const old = held.has(key) ? (held.get(key) as T) : first.current;
      keep(key, next instanceof Function ? next(old) : next, what);
    },
    [key, what],
  );
  const done = useCallback(() => keep(key, undefined, what), [key, what]);
  return [value === undefined ? initial : value, set, done];
}

/** How many places under a prefix hold something typed. */
export function useKeptCount(prefix: string): number {
  return useSyncExternalStore(subscribe, () => [...held.keys()].filter((k) => k.startsWith(prefix)).length);
}
