import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { api, type Problem, type Schemas, take } from "../../api/client";
import { refreshSheet } from "../../api/queries/formulas";
import { merge } from "../../saving/merge";
import type { Saver } from "../../saving/saver";
import { useAutosave } from "../../saving/useAutosave";

export type Sheet = Schemas["SheetView"];
export type Version = Schemas["Version"];
export type Line = Schemas["FormulaLine"];

export type Effect = Schemas["Effect"];
export type Edit = (what: string, change: (v: Version) => Version, key?: string) => void;

/** Two effects one after the other. */
export function addEffects(a: Effect | null, b: Effect | null | undefined): Effect | null {
  if (!a || !b) return b ?? a;
  const sum = (x?: number | null, y?: number | null) => (x == null || y == null ? (y ?? x ?? null) : x + y);
  const minus = (list: string[], gone: string[]) => list.filter((c) => !gone.includes(c));
  return {
    ...b,
    per_jar: a.per_jar == null || b.per_jar == null ? null : a.per_jar + b.per_jar, // one that is not known stays so
    jars: a.jars + b.jars,
    ph: sum(a.ph, b.ph),
    water_activity: sum(a.water_activity, b.water_activity),
    salt_in_water_percent: a.salt_in_water_percent + b.salt_in_water_percent,
    acetic_in_water_percent: a.acetic_in_water_percent + b.acetic_in_water_percent,
    allergens_gained: [...new Set([...minus(a.allergens_gained, b.allergens_lost), ...minus(b.allergens_gained, a.allergens_lost)])],
    allergens_lost: [...new Set([...minus(a.allergens_lost, b.allergens_gained), ...minus(b.allergens_lost, a.allergens_gained)])],
    declaration_changed: a.declaration_changed || b.declaration_changed,
  };
}

export interface DraftState {
  view: Sheet;
  version: Version;
  problem: Problem | null;
  saver: Saver<Version, Sheet>;
  lastEdit: string;
  /** What the last edit did; edits of one cell under one key count as one. */
  effect: Effect | null;
  edit: Edit;
  undo: () => void;
  redo: () => void;
  /** Starts from another sheet; what stood here can be brought back with undo. */
  adopt: (view: Sheet) => void;
}

/** The styles that followed from the lines, without touching what was typed meanwhile. */
function withStyles(value: Version, { version: stored }: Sheet): Version {
  if (!value.style_by_lines || !stored.style_by_lines) return value;
  const { product_style, emulsion_style, keeping } = stored;
  return { ...value, product_style, emulsion_style, keeping: { ...value.keeping, styles: keeping.styles } };
}

/** A draft that is saved at once and can be undone. What the server refuses stays on the sheet with its message. */
export function useDraft(initial: Sheet): DraftState {
  const client = useQueryClient();
  const [lastEdit, setLastEdit] = useState("");
  const [effect, setEffect] = useState<Effect | null>(null);
  const past = useRef<Version[]>([]);
  const future = useRef<Version[]>([]);
  const lastKey = useRef("");
  const path = { id: initial.formula, number: initial.version.version };
  const saver = useAutosave<Version, Sheet>(`sheet ${path.id} ${path.number}`, initial, {
    what: `${initial.name}, version ${path.number}`,
    link: `/formulas/${path.id}/${path.number}`,
    bodyOf: (v) => v.version,
    revOf: (v) => v.rev,
    send: (body, rev) => take(api.PUT("/formulas/{id}/versions/{number}", { params: { path, query: { rev } }, body })),
    follows: withStyles,
    stored: (next) => {
      setEffect((sofar) => addEffects(sofar, next.effect));
      refreshSheet(client, next);
    },
    // undoing must not take back what somebody else did
    rebased: (from, theirs) => {
      for (const stack of [past, future]) stack.current = stack.current.map((v) => merge(from, v, theirs).value);
    },
  });

  const edit = useCallback<Edit>(
    (what, change, key = "") => {
      if (key === "" || key !== lastKey.current) {
        past.current.push(saver.held.value);
        if (past.current.length > 200) past.current.shift();
        setEffect(null);
      }
      lastKey.current = key;
      future.current = [];
      setLastEdit(what);
      saver.put(change(saver.held.value));
    },
    [saver],
  );

  const travel = useCallback(
    (from: typeof past, to: typeof past, what: string) => {
      const next = from.current.pop();
      if (!next) return;
      to.current.push(saver.held.value);
      lastKey.current = "";
      setEffect(null);
      setLastEdit(what);
      saver.put(next);
    },
    [saver],
  );
  const undo = useCallback(() => travel(past, future, "undone"), [travel]);
  const redo = useCallback(() => travel(future, past, "done again"), [travel]);

  const adopt = useCallback(
    (next: Sheet) => {
      past.current.push(saver.held.value);
      lastKey.current = "";
      setEffect(null);
      saver.adopt(next);
    },
    [saver],
  );

  const { view, value, problem } = saver.held;
  return { view, version: value, problem, saver, lastEdit, effect, edit, undo, redo, adopt };
}

/** An id for a new line, unique in its version. */
export function lineID(): string {
  return `l${crypto.getRandomValues(new Uint32Array(1))[0].toString(36)}`;
}
