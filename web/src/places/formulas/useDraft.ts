import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Problem, problemOf, type Schemas, take } from "../../api/client";

export type Sheet = Schemas["SheetView"];
export type Version = Schemas["Version"];
export type Line = Schemas["FormulaLine"];

export interface DraftState {
  view: Sheet;
  version: Version;
  problem: Problem | null;
  clash: Problem | null;
  saving: boolean;
  savedAt: Date | null;
  lastEdit: string;
  edit: (what: string, change: (v: Version) => Version) => void;
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

  const adopt = useCallback((next: Sheet) => {
    setView(next);
    setVersion(next.version);
    latest.current = next.version;
    rev.current = next.rev;
    dirty.current = false;
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
    void client.invalidateQueries({ queryKey: ["formulas"] });
    void client.invalidateQueries({ queryKey: ["today"] });
  }, [client]);

  const put = useCallback(
    (next: Version) => {
      latest.current = next;
      setVersion(next);
      void save();
    },
    [save],
  );

  const edit = useCallback(
    (what: string, change: (v: Version) => Version) => {
      past.current.push(latest.current);
      if (past.current.length > 200) past.current.shift();
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

  return { view, version, problem, clash, saving, savedAt, lastEdit, edit, undo, redo, settleClash, adopt };
}

/** An id for a new line, unique in its version. */
export function lineID(): string {
  return `l${crypto.getRandomValues(new Uint32Array(1))[0].toString(36)}`;
}
