import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Problem, problemOf, type Schemas, take } from "../../api/client";

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
    per_jar: a.per_jar + b.per_jar,
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
  clash: Problem | null;
  saving: boolean;
  savedAt: Date | null;
  lastEdit: string;
  /** What the last edit did; edits of one cell under one key count as one. */
  effect: Effect | null;
  edit: Edit;
  undo: () => void;
  redo: () => void;
  settleClash: (theirs: boolean) => void;
  adopt: (view: Sheet) => void;
}

/**
 * A draft that is saved at once and can be undone. One request is on its way at a time; edits made meanwhile go with the
 * next. What the server refuses stays on the sheet with its message.
 */
export function useDraft(initial: Sheet): DraftState {
  const client = useQueryClient();
  const [view, setView] = useState(initial);
  const [version, setVersion] = useState(initial.version);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [clash, setClash] = useState<Problem | null>(null);
  const [saving, setSaving] = useState(false);
  const [savedAt, setSavedAt] = useState<Date | null>(null);
  const [lastEdit, setLastEdit] = useState("");
  const latest = useRef(initial.version);
  const rev = useRef(initial.rev);
  const busy = useRef(false);
  const dirty = useRef(false);
  const past = useRef<Version[]>([]);
  const future = useRef<Version[]>([]);
  const lastKey = useRef("");
  const [effect, setEffect] = useState<Effect | null>(null);

  const adopt = useCallback((next: Sheet) => {
    setView(next);
    setVersion(next.version);
    latest.current = next.version;
    rev.current = next.rev;
    dirty.current = false;
    lastKey.current = "";
    setEffect(null);
    setProblem(null);
    setClash(null);
  }, []);

  const save = useCallback(async () => {
    if (busy.current) {
      dirty.current = true;
      return;
    }
    busy.current = true;
    setSaving(true);
    do {
      dirty.current = false;
      const body = latest.current;
      try {
        const next = await take(
          api.PUT("/formulas/{id}/versions/{number}", {
            params: { path: { id: body.formula, number: body.version }, query: { rev: rev.current } },
            body,
          }),
        );
        rev.current = next.rev;
        setView(next);
        if (latest.current.style_by_lines && next.version.style_by_lines) {
          // the styles that followed from the lines, without touching what was typed meanwhile
          const { product_style, emulsion_style, keeping } = next.version;
          latest.current = {
            ...latest.current,
            product_style,
            emulsion_style,
            keeping: { ...latest.current.keeping, styles: keeping.styles },
          };
          setVersion(latest.current);
        }
        setEffect((sofar) => addEffects(sofar, next.effect));
        setProblem(null);
        setSavedAt(new Date());
        client.setQueryData(["sheet", body.formula, body.version], next);
      } catch (e) {
        const p = problemOf(e);
        if (p.status === 409) setClash(p);
        else setProblem(p);
      }
    } while (dirty.current);
    busy.current = false;
    setSaving(false);
    // Typing a gram asks only for the sheet; the lists are read anew when somebody looks at them.
    void client.invalidateQueries({ queryKey: ["formulas"], refetchType: "none" });
    void client.invalidateQueries({ queryKey: ["today"], refetchType: "none" });
  }, [client]);

  const put = useCallback(
    (next: Version) => {
      latest.current = next;
      setVersion(next);
      void save();
    },
    [save],
  );

  const edit = useCallback<Edit>(
    (what, change, key = "") => {
      if (key === "" || key !== lastKey.current) {
        past.current.push(latest.current);
        if (past.current.length > 200) past.current.shift();
        setEffect(null);
      }
      lastKey.current = key;
      future.current = [];
      setLastEdit(what);
      put(change(latest.current));
    },
    [put],
  );

  const travel = useCallback(
    (from: typeof past, to: typeof past, what: string) => {
      const next = from.current.pop();
      if (!next) return;
      to.current.push(latest.current);
      lastKey.current = "";
      setEffect(null);
      setLastEdit(what);
      put(next);
    },
    [put],
  );
  const undo = useCallback(() => travel(past, future, "undone"), [travel]);
  const redo = useCallback(() => travel(future, past, "done again"), [travel]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "z" || latest.current.state !== "draft") return;
      e.preventDefault();
      if (e.shiftKey) redo();
      else undo();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);

  const settleClash = useCallback(
    (theirs: boolean) => {
      const current = clash?.current as unknown as Sheet | undefined;
      setClash(null);
      if (!current) return;
      if (theirs) {
        past.current.push(latest.current);
        adopt(current);
        return;
      }
      rev.current = current.rev;
      void save();
    },
    [clash, adopt, save],
  );

  return { view, version, problem, clash, saving, savedAt, lastEdit, effect, edit, undo, redo, settleClash, adopt };
}

/** An id for a new line, unique in its version. */
export function lineID(): string {
  return `l${crypto.getRandomValues(new Uint32Array(1))[0].toString(36)}`;
}
