import { useRef, useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { AreaField, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";

type Ingredient = Schemas["Ingredient"];

/** The list as the supplier prints it, read while it is typed. */
export function SupplierList({
  label,
  value,
  error,
  onSave,
}: {
  label: string;
  value: string;
  error: string;
  onSave: (s: string) => void;
}) {
  const [text, setText] = useState(value);
  const [said, setSaid] = useState("");
  const [bad, setBad] = useState("");
  const newest = useRef(value); // answers may overtake each other: only that of the words that stand there counts
  const check = async (t: string) => {
    newest.current = t;
    try {
      const items = await take(api.POST("/supplier-list", { body: { text: t } }));
      if (newest.current !== t) return;
      setBad("");
      setSaid(
        items.length
          ? `${items.length} entries: ${items.map((i) => i.name + (i.parts?.length ? ` (${i.parts.length})` : "")).join(", ")}`
          : "",
      );
    } catch (e) {
      const p = problemOf(e);
      if (newest.current === t) setBad(p.fields[0]?.message ?? p.title);
    }
  };
  return (
    <AreaField
      label={label}
      rows={2}
      value={text}
      error={bad || error}
      hint={said || "Entries by semicolon or comma, an entry's own list in brackets"}
      onChange={(e) => {
        setText(e.target.value);
        void check(e.target.value);
      }}
      onBlur={() => text !== value && !bad && onSave(text)}
    />
  );
}

export function Codes({
  label,
  hint,
  value,
  error,
  onSave,
}: {
  label: string;
  hint: string;
  value: string[];
  error: string;
  onSave: (v: string[]) => void;
}) {
  const [text, setText] = useState(value.join(", "));
  const parse = (t: string) =>
    t
      .split(/[,;]/)
      .map((s) => s.trim().toLowerCase())
      .filter(Boolean);
  return (
    <TextField
      label={label}
      hint={hint}
      value={text}
      error={error}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => parse(text).join() !== value.join() && onSave(parse(text))}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

export function PhRange({ value, error, onSave }: { value: Ingredient["ph"]; error: string; onSave: (v: Ingredient["ph"]) => void }) {
  const [low, setLow] = useState<number | null>(value?.low ?? null);
  const [typical, setTypical] = useState<number | null>(value?.typical ?? null);
  const [high, setHigh] = useState<number | null>(value?.high ?? null);
  const done = () => {
    if (typical === null) {
      if (value) onSave(null);
      return;
    }
    const next = { typical, low: low ?? typical, high: high ?? typical };
    if (next.typical !== value?.typical || next.low !== value?.low || next.high !== value?.high) onSave(next);
  };
  return (
    <fieldset className="col-span-3 grid grid-cols-3 gap-2" onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && done()}>
      <legend className="sr-only">pH with its range</legend>
      <NumberField label="pH, low" allowEmpty value={low} onValue={setLow} />
      <NumberField label="pH, typical" allowEmpty value={typical} onValue={setTypical} error={error} />
      <NumberField label="pH, high" allowEmpty value={high} onValue={setHigh} />
    </fieldset>
  );
}

/** An ingredient as it is edited: what is typed so far, what was refused of it, and how it changes. */
export interface Edited {
  draft: Ingredient;
  problem: Problem | null;
  set: (change: Partial<Ingredient>) => void;
}

/** A line of text of an ingredient; it is handed on when the field is left. */
export function Typed({
  of,
  label,
  view,
  draft,
  problem,
  set,
}: Edited & { of: "name" | "note"; label: string; view: Schemas["IngredientView"] }) {
  return (
    <TextField
      key={`${of}${view[of] ?? ""}`}
      label={label}
      defaultValue={draft[of] ?? ""}
      error={fieldMessage(problem, of)}
      onBlur={(e) => e.target.value !== (draft[of] ?? "") && set({ [of]: e.target.value })}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
