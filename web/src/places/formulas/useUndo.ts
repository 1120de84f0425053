import { type RefObject, useEffect } from "react";

/** Whether a key press belongs to the sheet: the focus is in it or nowhere, no dialog is open, and no words are being typed. */
function belongsTo(sheet: HTMLElement | null, at: EventTarget | null): boolean {
  if (!sheet || !(at instanceof HTMLElement)) return false;
  if (document.querySelector('[role="dialog"], [role="menu"]')) return false;
  if (at !== document.body && !sheet.contains(at)) return false;
  return at.dataset.cell === "grams" || !(at.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(at.tagName));
}

/** Ctrl+Z on the sheet takes its last edit back; in a field it is the field's own. */
export function useUndo(sheet: RefObject<HTMLElement | null>, draft: { undo: () => void; redo: () => void } | null) {
  const undo = draft?.undo;
  const redo = draft?.redo;
  useEffect(() => {
    if (!undo || !redo) return;
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "z" || !belongsTo(sheet.current, e.target)) return;
      e.preventDefault();
      if (e.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [sheet, undo, redo]);
}
