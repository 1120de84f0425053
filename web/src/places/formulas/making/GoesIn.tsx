import { useState } from "react";
import { fieldMessage, type Problem } from "../../../api/client";
import { ChooseIngredient } from "../../../parts/choose";
import { NumberField } from "../../../parts/number";
import { FromScale } from "../../../parts/scale";
import { useFormats } from "../../../parts/shop";
import { useKept } from "../../../saving/kept";
import { keyOf, type Note, REASONS, type Thing } from "./making";

const big = "min-h-14 rounded-md px-4 text-lead font-semibold disabled:opacity-45";

/** A thing that goes in, with what the sheet says and what is in already. */
export function Tile({ thing: t, in_, on, choose }: { thing: Thing; in_: number; on: boolean; choose: () => void }) {
  const { num } = useFormats();
  return (
    <button
      type="button"
      aria-expanded={on}
      className={`flex min-h-14 w-full items-center gap-3 rounded-md border-2 px-4 text-left text-lead ${on ? "border-cobalt bg-cobalt-tint" : "border-rule-strong bg-white hover:border-cobalt"}`}
      onClick={choose}
    >
      <span className="min-w-0 flex-1 truncate">{t.name}</span>
      {t.sheet != null && <span className="text-note text-ink-3">sheet {num(t.sheet, 1)}</span>}
      <b className={`w-23 text-right ${in_ > 0 ? "" : "font-normal text-ink-3"}`}>{in_ > 0 ? `${num(in_, 1)} g` : "not yet"}</b>
    </button>
  );
}

/** How much of it went in, or was added and why. */
export function GoesIn({
  thing,
  busy,
  problem,
  formula,
  note,
  found,
}: {
  thing: Thing;
  busy: boolean;
  problem: Problem | null;
  formula: string;
  note: Note;
  found: (id: string, name: string) => void;
}) {
  const [grams, setGrams] = useState<number | null>(null);
  const [why, setWhy, said] = useKept(`why ${formula} ${thing.key}`, "", `Why ${thing.name} was added`);
  const [asks, setAsks] = useState(false);
  const [other, setOther] = useState({ id: "", name: "" });
  const [told, setTold] = useState("");
  const what = other.id ? { ingredient: other.id, instead_of: keyOf(thing) } : { ingredient: thing.ingredient, component: thing.component };
  const put = (kind: "in" | "added") => {
    if (grams == null || grams <= 0) return setTold("how many grams?");
    if (kind === "added" && !why.trim()) {
      setAsks(true);
      return setTold(asks ? "say why it was added" : "");
    }
    setTold("");
    void note({ kind, ...what, grams, ...(kind === "added" ? { reason: why.trim() } : {}) }, () => {
      said();
      setGrams(null);
    });
  };
  return (
    <form
      className="mt-1 rounded-md border border-rule bg-paper px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        put(asks ? "added" : "in");
      }}
    >
      {other.id && (
        <p className="mb-2 text-body text-mustard-ink">
          <b>{other.name}</b> instead of {thing.name}{" "}
          <button type="button" className="min-h-8 px-2 font-semibold text-cobalt" onClick={() => setOther({ id: "", name: "" })}>
            no, {thing.name}
          </button>
        </p>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label={`Grams of ${other.name || thing.name}`}
          measure="mass"
          className="w-37.5 [&_.field]:h-14 [&_.field]:text-right [&_.field]:text-title [&_.field]:font-semibold"
          allowEmpty
          autoFocus
          value={grams}
          onValue={setGrams}
          error={told || fieldMessage(problem, "grams")}
        />
        <button
          type="button"
          className={`${big} ${asks ? "border-2 border-rule-strong bg-white" : "bg-cobalt text-white"}`}
          disabled={busy}
          onClick={() => put("in")}
        >
          It went in
        </button>
        <button
          type="button"
          className={`${big} ${asks ? "bg-cobalt text-white" : "border-2 border-rule-strong bg-white"}`}
          disabled={busy}
          onClick={() => put("added")}
        >
          Added to taste
        </button>
        {thing.ingredient && (
          <ChooseIngredient
            label={`Something else instead of ${thing.name}`}
            className="btn-quiet min-h-14"
            onChoose={(id, name) => {
              found(id, name);
              setOther({ id, name });
            }}
          >
            instead …
          </ChooseIngredient>
        )}
      </div>
      {asks && (
        <div className="mt-3 flex flex-wrap items-center gap-2">
          <input
            className="field h-12! min-w-50 flex-1 text-lead"
            aria-label={`Why ${thing.name} was added`}
            placeholder="why?"
            maxLength={200}
            value={why}
            onChange={(e) => setWhy(e.target.value)}
          />
          {REASONS.map((r) => (
            <button
              key={r}
              type="button"
              className="min-h-12 rounded-md border border-rule-strong bg-white px-3 text-body hover:border-cobalt"
              onClick={() => setWhy(r)}
            >
              {r}
            </button>
          ))}
        </div>
      )}
      <FromScale what={thing.name} onTake={(g) => setGrams(g)} />
    </form>
  );
}
