import { type RefObject, useEffect, useRef } from "react";
import { isOpen, type Line } from "./roles";

/** The row of a line in the table. */
function rowOf(table: HTMLElement | null, key: string) {
  return table?.querySelector<HTMLElement>(`[data-key="${CSS.escape(key)}"]`) ?? null;
}

/** The nearest window in which an element scrolls. */
function scroller(e: HTMLElement): HTMLElement | null {
  for (let up = e.parentElement; up; up = up.parentElement) {
    if (up.scrollHeight > up.clientHeight && getComputedStyle(up).overflowY === "auto") return up;
  }
  return null;
}

/** Brings a line into view and stands on its first answer, or where its grams are typed. */
export function stand(table: HTMLElement | null, key: string) {
  const row = rowOf(table, key);
  if (!row) return;
  // only the table moves: bringing the row into view would move the page with its head as well
  const view = scroller(row);
  if (view) {
    const above = row.getBoundingClientRect().top - view.getBoundingClientRect().top;
    view.scrollTop += above - (view.clientHeight - row.clientHeight) / 2;
  }
  (
    row.querySelector<HTMLElement>("[data-answer]") ??
    row.querySelector<HTMLElement>("[data-first]") ??
    row.querySelector<HTMLElement>("input, button")
  )?.focus({ preventScroll: true });
}

/** The open line behind or before another, in their order; the first or last one from anywhere else. */
export function neighbour(lines: Line[], from: string | null, step: 1 | -1): string | null {
  const at = lines.findIndex((l) => l.key === from);
  const order =
    step > 0
      ? [...lines.slice(at + 1), ...lines.slice(0, at + 1)]
      : [...lines.slice(0, Math.max(at, 0)).reverse(), ...lines.slice(Math.max(at, 0)).reverse()];
  return order.find((l) => isOpen(l) && l.key !== from)?.key ?? null;
}

/**
 * All open points in order, by keyboard: Alt and an arrow go on to the next or the one before, a figure gives the answer
 * with that number, and what was answered leads on to the next.
 */
export function useOpenPoints(table: RefObject<HTMLElement | null>, lines: Line[]) {
  const answered = useRef<string | null>(null);
  const byKey = useRef(false);
  const here = () => (document.activeElement as HTMLElement | null)?.closest<HTMLElement>("[data-key]")?.dataset.key ?? null;
  const go = (step: 1 | -1) => {
    const next = neighbour(lines, here(), step);
    if (next) stand(table.current, next);
  };
  useEffect(() => {
    const key = answered.current;
    if (!key) return;
    const line = lines.find((l) => l.key === key);
    answered.current = null;
    const next = line && isOpen(line) ? key : neighbour(lines, key, 1);
    if (next) stand(table.current, next);
  }, [lines, table]);
  const onKey = (e: KeyboardEvent) => {
    if (e.altKey && (e.key === "ArrowDown" || e.key === "ArrowUp")) {
      e.preventDefault();
      go(e.key === "ArrowDown" ? 1 : -1);
      return;
    }
    const field = e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement;
    if (field || e.altKey || e.ctrlKey || e.metaKey || !/^[1-9]$/.test(e.key)) return;
    const key = here();
    const answer = key ? rowOf(table.current, key)?.querySelectorAll<HTMLElement>("[data-answer]")[Number(e.key) - 1] : undefined;
    if (!answer) return;
    e.preventDefault();
    answered.current = key;
    answer.click();
  };
  const latest = useRef(onKey);
  latest.current = onKey;
  useEffect(() => {
    const hear = (e: KeyboardEvent) => {
      byKey.current = true;
      latest.current(e);
    };
    const point = () => {
      byKey.current = false;
    };
    window.addEventListener("keydown", hear, true);
    window.addEventListener("pointerdown", point, true);
    return () => {
      window.removeEventListener("keydown", hear, true);
      window.removeEventListener("pointerdown", point, true);
    };
  }, []);
  /** An answer was given by keyboard in its row: the next open point follows. Under a pointer nothing moves. */
  const follow = (key: string) => {
    if (byKey.current && here() === key) answered.current = key;
  };
  return { follow, go };
}
