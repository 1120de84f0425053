import { fieldMessage } from "../../api/client";
import { useIngredients } from "../../api/queries/pantry";
import { ChooseIngredient } from "../../parts/choose";
import { AreaField, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { type DraftState, lineID, type Version } from "./useDraft";

type Step = NonNullable<Version["steps"]>[number];
type Topping = NonNullable<Version["toppings"]>[number];

/** What goes onto each jar after filling. */
export function Toppings({ draft, locked }: { draft: DraftState; locked: boolean }) {
  const { version, problem, edit } = draft;
  const names = useIngredients();
  const nameOf = (id: string) => names.data?.find((g) => g.id === id)?.name ?? id;
  const list = version.toppings ?? [];
  const put = (next: Topping[], key?: string) =>
    edit("on top of each jar", (v) => ({ ...v, toppings: next.length ? next : undefined }), key);
  return (
    <>
      <h2 className="phase mt-5 mb-1 text-lead">On top of each jar</h2>
      <p className="mb-2 text-note text-ink-2">
        A spoon of oil, seeds, pieces kept back: in the net quantity, the cost, the declaration and the rules.
      </p>
      {list.map((t, i) => (
        <div key={t.id} className="mb-2 grid max-w-xl grid-cols-[minmax(0,1fr)_130px_90px] items-end gap-4">
          <b className="pb-2 text-body font-medium">{nameOf(t.ingredient)}</b>
          <NumberField
            label={`${nameOf(t.ingredient)} on a jar`}
            unit="g"
            className="[&_label]:truncate"
            value={t.grams_per_jar}
            disabled={locked}
            error={fieldMessage(problem, `toppings[${i}].grams_per_jar`)}
            onValue={(n) =>
              put(
                list.map((x) => (x.id === t.id ? { ...x, grams_per_jar: n ?? 0 } : x)),
                `topping ${t.id}`,
              )
            }
          />
          {!locked && (
            <button type="button" className="btn-quiet" onClick={() => put(list.filter((x) => x.id !== t.id))}>
              Take off
            </button>
          )}
        </div>
      ))}
      {!locked && (
        <ChooseIngredient
          label="Something on top"
          without={list.map((t) => t.ingredient)}
          onChoose={(ingredient) => put([...list, { id: lineID(), ingredient, grams_per_jar: 0 }])}
        >
          Put something on top …
        </ChooseIngredient>
      )}
    </>
  );
}

/** How it is made, step by step, and what it should be like. */
export function Steps({ draft, locked }: { draft: DraftState; locked: boolean }) {
  const { version, problem, edit } = draft;
  const list = version.steps ?? [];
  const put = (next: Step[], key?: string) => edit("steps", (v) => ({ ...v, steps: next.length ? next : undefined }), key);
  const set = (i: number, c: Partial<Step>) =>
    put(
      list.map((s, k) => (k === i ? { ...s, ...c } : s)),
      `step ${i} ${Object.keys(c)}`,
    );
  const e = (i: number, f: string) => fieldMessage(problem, `steps[${i}].${f}`);
  return (
    <>
      <h2 className="phase mt-5 mb-1 text-lead">Making it</h2>
      {list.length > 0 && <p className="mb-2 text-note text-ink-2">Hot pans, glass and blades: say the caution where the hand is.</p>}
      {list.map((s, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place
        <div key={i} className="mb-3 grid grid-cols-[24px_minmax(0,1fr)_78px] items-start gap-x-3 gap-y-1">
          <b className="pt-7 text-right font-title text-lead">{i + 1}</b>
          <AreaField
            label="What is done"
            rows={2}
            value={s.text}
            maxLength={2000}
            disabled={locked}
            error={e(i, "text")}
            onChange={(x) => set(i, { text: x.target.value })}
          />
          {locked ? (
            <span />
          ) : (
            <button type="button" className="btn-quiet mt-5.5" onClick={() => put(list.filter((_, k) => k !== i))}>
              Take out
            </button>
          )}
          <span />
          <div className="grid grid-cols-[minmax(0,1fr)_76px_76px_minmax(0,1.4fr)] gap-3">
            <TextField
              label="In what"
              value={s.vessel ?? ""}
              maxLength={120}
              disabled={locked}
              onChange={(x) => set(i, { vessel: x.target.value || undefined })}
            />
            <NumberField
              label="Time"
              unit="min"
              allowEmpty
              value={s.minutes ?? null}
              disabled={locked}
              error={e(i, "minutes")}
              onValue={(n) => set(i, { minutes: n ?? undefined })}
            />
            <NumberField
              label="At"
              unit="°C"
              reason={[-30, 260]}
              allowEmpty
              value={s.celsius ?? null}
              disabled={locked}
              error={e(i, "celsius")}
              onValue={(n) => set(i, { celsius: n ?? undefined })}
            />
            <TextField
              label="Look for"
              value={s.check ?? ""}
              maxLength={2000}
              disabled={locked}
              onChange={(x) => set(i, { check: x.target.value || undefined })}
            />
          </div>
        </div>
      ))}
      {!locked && (
        <button type="button" className="btn-quiet" onClick={() => put([...list, { text: "Stir it through" }])}>
          Add a step
        </button>
      )}
      <TextField
        className="mt-2 max-w-md"
        label="What it should be like"
        placeholder="spreads to 60 mm; runs through the cup in 20 s"
        value={version.consistency ?? ""}
        maxLength={120}
        disabled={locked}
        onChange={(x) => edit("consistency", (v) => ({ ...v, consistency: x.target.value || undefined }), "consistency")}
      />
    </>
  );
}
