import { fieldMessage, type Problem } from "../../api/client";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import type { Settings } from "./settings";

type Step = NonNullable<Settings["allowable"]>[number];

/** By how much a jar may be short, where the law leaves that to a table: the shop copies it, with its source. */
export function ShortTable({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const { shop } = useFormats();
  if (!shop.laws.find((l) => l.regime === s.regime)?.enters_shortage) return null;
  const steps = s.allowable ?? [];
  const put = (i: number, part: Partial<Step>) => set({ allowable: steps.map((x, k) => (k === i ? { ...x, ...part } : x)) });
  const e = (name: string) => fieldMessage(problem, name);
  return (
    <section className="sheet col-span-2 p-5" aria-labelledby="short">
      <h2 id="short" className="phase mb-1 text-lead">
        How much a jar may be short
      </h2>
      <p className="mb-3 text-note text-ink-2">
        The average of full jars is at least what the label says. By how much a single one may be under it stands in a table that your
        inspector goes by: copy its steps here, in grams (or millilitres, where the label says volume). Without it only the average is
        judged.
      </p>
      <TextField
        className="mb-3 max-w-130"
        label="Where the table stands"
        value={s.allowable_source ?? ""}
        onChange={(x) => set({ allowable_source: x.target.value })}
        error={e("allowable_source")}
      />
      <div className="grid gap-2">
        {steps.map((step, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a step is its row
          <div key={i} className="grid grid-cols-[150px_150px_150px_40px] items-end gap-3">
            <NumberField
              label={i === 0 ? "Jars up to" : ""}
              aria-label={`Step ${i + 1}: jars up to`}
              unit={i === 0 ? "g" : undefined}
              measure="plain"
              value={step.to}
              onValue={(to) => put(i, { to: to ?? 0 })}
              error={e(`allowable.${i}`)}
            />
            <NumberField
              label={i === 0 ? "may be short by" : ""}
              aria-label={`Step ${i + 1}: may be short by grams`}
              unit={i === 0 ? "g" : undefined}
              measure="plain"
              allowEmpty
              value={step.fixed || null}
              onValue={(fixed) => put(i, { fixed: fixed ?? 0, percent: fixed ? 0 : step.percent })}
            />
            <NumberField
              label={i === 0 ? "or by a share" : ""}
              aria-label={`Step ${i + 1}: may be short by percent`}
              unit={i === 0 ? "%" : undefined}
              allowEmpty
              value={step.percent || null}
              onValue={(percent) => put(i, { percent: percent ?? 0, fixed: percent ? 0 : step.fixed })}
            />
            <button
              type="button"
              className="btn-quiet text-beet!"
              aria-label={`Take step ${i + 1} off the table`}
              onClick={() => set({ allowable: steps.filter((_, k) => k !== i) })}
            >
              ✕
            </button>
          </div>
        ))}
        <button
          type="button"
          className="btn-quiet justify-self-start"
          onClick={() => set({ allowable: [...steps, { to: (steps.at(-1)?.to ?? 50) * 2, fixed: (steps.at(-1)?.fixed ?? 3) + 2 }] })}
        >
          Add a step
        </button>
      </div>
    </section>
  );
}
