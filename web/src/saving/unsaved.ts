import { useEffect, useId, useSyncExternalStore } from "react";

/** Something typed that is not stored. */
interface Unsaved {
  id: string;
  /** What it is, for a person. */
  what: string;
  /** kept: it goes on being stored, wherever one goes; screen: it goes with the screen. */
  kept: boolean;
  link?: string;
  /** The server does not answer; since when. */
  away?: boolean;
  why?: string;
  again?: () => void;
}

let all: readonly Unsaved[] = [];
const listeners = new Set<() => void>();

function tell(next: readonly Unsaved[]) {
  all = next;
  for (const l of listeners) l();
}

/** Says that something is not stored, or, with null, that it is. */
export function unsaved(id: string, u: Omit<Unsaved, "id"> | null) {
  const rest = all.filter((x) => x.id !== id);
  if (u === null && rest.length === all.length) return;
  tell(u === null ? rest : [...rest, { id, ...u }]);
}

export function useAllUnsaved(): readonly Unsaved[] {
  return useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => all,
  );
}

export function anyUnsaved(): readonly Unsaved[] {
  return all;
}

let hears = true;

/** Notes whether the server answered the last thing that was read. */
export function heard(answered: boolean) {
  if (hears === answered) return;
  hears = answered;
  for (const l of listeners) l();
}

/** Whether the server answers; while it does not, what is on screen may be old. */
export function useHears(): boolean {
  return useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => hears,
  );
}

/** While what is not empty, leaving asks: it was typed and is stored nowhere yet. */
export function useUnsaved(what: string) {
  const id = useId();
  useEffect(() => {
    unsaved(id, what ? { what, kept: false } : null);
    return () => unsaved(id, null);
  }, [id, what]);
}

/** The browser asks before the window goes, while anything typed is not stored. */
window.addEventListener("beforeunload", (e) => {
  if (all.length === 0) return;
  e.preventDefault();
});
