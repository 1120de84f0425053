import { useState } from "react";
import type { Problem, Schemas } from "../../api/client";
import { ChooseIngredient } from "../../parts/choose";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { moreWords } from "../formulas/Panel";
import { type Change, changeWords, type View } from "./parts";

export interface Case {
  name: string;
  changes: Change[];
}

const MOST = 4;

/** What-ifs side by side: they touch no price that is kept, and are gone with the page. */
export function WhatIfs({
  view,
  cases,
  problem,
  onChange,
}: {
  view: View;
  cases: Case[];
  problem: Problem | null;
  onChange: (c: Case[]) => void;
}) {
  const { money } = useFormats();
  const [adding, setAdding] = useState(false);
  return (
    <section aria-label="What if">
      <div className="flex items-baseline gap-3">
        <h2 className="phase text-lead">What if</h2>
        <span className="text-note text-ink-3">no price that is kept changes</span>
      </div>
      <div className="mt-2 flex flex-wrap items-stretch gap-3">
        {cases.map((c, i) => {
          const worked = view.cases[i];
          const same = worked?.name === c.name;
          return (
            <div key={c.name} className="min-w-37.5 max-w-57.5 border-l-4 border-wash bg-paper px-3 py-2">
              <p className="truncate text-note font-semibold" title={c.name}>
                {c.name}
              </p>
              {/* the place of the figures is kept while they are worked out: nothing moves under the hand */}
              <p className="mt-0.5 text-title leading-none font-semibold">
                {same && worked.stack.at_least && <small className="mr-1 text-note text-mustard-ink">at least</small>}
                {same ? money(worked.stack.per_jar) : "…"}
              </p>
              <p className={`mt-1 text-note ${same && worked.more == null ? "text-mustard-ink" : "text-ink-2"}`}>
                {same ? moreWords({ per_jar: worked.more, unpriced: worked.stack.missing }) : "being worked out"}
                {same && worked.more != null && `; at the stall ${money(worked.ladder[0]?.point ?? 0)}`}
              </p>
              <button
                type="button"
                className="btn-quiet -ml-2 text-note"
                aria-label={`Let go: ${c.name}`}
                onClick={() => onChange(cases.filter((_, k) => k !== i))}
              >
                Let go
              </button>
            </div>
          );
        })}
        {!adding && cases.length < MOST && (
          <button type="button" className="btn-line self-start" onClick={() => setAdding(true)}>
            Try something
          </button>
        )}
      </div>
      {problem?.fields
        .filter((f) => f.field.startsWith("cases"))
        .map((f) => (
          <p key={f.field} role="alert" className="mt-1 text-note font-semibold text-beet">
            {f.message}
          </p>
        ))}
      {adding && (
        <Try
          view={view}
          onLeave={() => setAdding(false)}
          onTry={(c) => {
            onChange([...cases.filter((x) => x.name !== c.name), c]);
            setAdding(false);
          }}
        />
      )}
    </section>
  );
}

/** Puts one what-if together: what changes, and by how much or into what. */
function Try({ view, onLeave, onTry }: { view: View; onLeave: () => void; onTry: (c: Case) => void }) {
  const { num } = useFormats();
  const things = view.moves.filter((m) => m.kind !== "fill");
  const [of, setOf] = useState(things[0] ? `${things[0].kind} ${things[0].of}` : "jar ");
  const [percent, setPercent] = useState<number | null>(25);
  const [grams, setGrams] = useState<number | null>(null);
  const [into, setInto] = useState<{ id: string; name: string } | null>(null);
  const [kind, key] = [of.slice(0, of.indexOf(" ")), of.slice(of.indexOf(" ") + 1)];
  const move = things.find((m) => m.kind === kind && m.of === key);
  const line = view.stack.lines.find((l) => l.key === key);
  const options: (readonly [string, string])[] = [
    ...things.map((m) => [`${m.kind} ${m.of}`, nameOf(m)] as const),
    ["jar ", "another fill of the jar"],
    ...view.packaging.map((p) => [`pack ${p.name}`, `another ${p.name} of the pack`] as const),
    ...view.stack.lines.map((l) => [`swap ${l.key}`, `something else for ${l.name}`] as const),
  ];
  const made = ((): Case | null => {
    if (kind === "jar") {
      if (!grams) return null;
      const change = { kind, of: "", percent: 0, to: String(grams) };
      return { name: changeWords(change, "", num), changes: [change] };
    }
    if (kind === "swap" || kind === "pack") {
      if (!into || (kind === "swap" && !line)) return null;
      const change = { kind, of: key, percent: 0, to: into.id };
      return { name: changeWords(change, `${into.name} for ${line?.name ?? key}`, num), changes: [change] };
    }
    if (!percent || !move) return null;
    const change = { kind, of: key, percent, to: "" };
    return { name: changeWords(change, move.kind === "yield" ? nameOf(move) : move.name, num), changes: [change] };
  })();
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-3 bg-paper p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (made) onTry(made);
      }}
    >
      <SelectField
        className="w-70"
        label="What changes"
        value={of}
        options={options}
        onValue={(v) => {
          setOf(v);
          setInto(null);
        }}
      />
      {kind === "jar" ? (
        <NumberField className="w-28" label="a jar of" unit="g" allowEmpty value={grams} onValue={setGrams} />
      ) : kind === "swap" || kind === "pack" ? (
        <ChooseIngredient
          key={kind}
          pack={kind === "pack"}
          label="for what?"
          className="btn-line min-w-44 text-left"
          onChoose={(id, name) => setInto({ id, name })}
        >
          {into ? <b>{into.name}</b> : "… choose from the pantry"}
        </ChooseIngredient>
      ) : (
        <NumberField className="w-28" label="by" unit="%" reason={[-95, 300]} value={percent} onValue={setPercent} />
      )}
      <button type="submit" className="btn" disabled={!made}>
        Try it
      </button>
      <button type="button" className="btn-quiet" onClick={onLeave}>
        Leave it
      </button>
    </form>
  );
}

const nameOf = (m: Schemas["CostMove"]) => (m.kind === "price" ? `price of ${m.name}` : m.kind === "yield" ? `yield of ${m.name}` : m.name);
