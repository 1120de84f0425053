import { type KeyboardEvent, useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { ChooseIngredient } from "../../parts/choose";
import { DateField } from "../../parts/date";
import { AreaField, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { today } from "../../tongue/clock";
import { say } from "../../tongue/words";
import type { TrialsData } from "./trials";
import type { Version } from "./useDraft";

interface Row {
  ingredient?: string;
  component?: Schemas["VersionRef"] | null;
  name: string;
  target: number | null;
  grams: number | null;
  added: number | null;
  reason: string;
  instead: string;
  was: string;
}

/** One real making, line by line: what went in, what was added to taste and why, what stood in for what. */
export function RecordTrial({
  formula,
  version,
  names,
  trial,
  onClose,
  onStored,
}: {
  formula: string;
  version: Version;
  names: Record<string, string>;
  trial: Schemas["TrialView"] | null;
  onClose: () => void;
  onStored: (v: TrialsData) => Promise<void>;
}) {
  const { num } = useFormats();
  const nameOf = (l: { ingredient?: string; component?: Schemas["VersionRef"] | null }) =>
    names[l.component ? `formula:${l.component.formula}` : (l.ingredient ?? "")] ?? l.ingredient ?? "";
  const [rows, setRows] = useState<Row[]>(() =>
    trial
      ? trial.lines.map((l) => ({
          ingredient: l.ingredient,
          component: l.component,
          name: nameOf(l),
          target: null,
          grams: l.grams,
          added: l.added_g || null,
          reason: l.reason ?? "",
          instead: l.instead_of ?? "",
          was: names[l.instead_of ?? ""] ?? "",
        }))
      : version.lines.map((l) => ({
          ingredient: l.ingredient,
          component: l.component,
          name: nameOf(l),
          target: l.grams,
          grams: null,
          added: null,
          reason: "",
          instead: "",
          was: "",
        })),
  );
  const [head, setHead] = useState({
    made_on: trial?.made_on ?? today(),
    vessel: trial?.vessel ?? "",
    finished: trial?.finished_g || (null as number | null),
    score: trial?.score || (null as number | null),
    note: trial?.note ?? "",
  });
  const [problem, setProblem] = useState<Problem | null>(null);
  const set = (i: number, c: Partial<Row>) => setRows(rows.map((r, k) => (k === i ? { ...r, ...c } : r)));
  const total = rows.reduce((s, r) => s + (r.grams ?? 0), 0);
  const used = rows.map((r, i) => ({ r, i })).filter(({ r }) => r.grams !== null && r.grams > 0);
  const error = (i: number, f = "") => {
    const at = used.findIndex((u) => u.i === i);
    return at < 0 ? "" : fieldMessage(problem, `lines[${at}]${f}`);
  };
  const [save, busy] = useAct(async () => {
    try {
      const v = await take(
        api.POST("/formulas/{id}/trials", {
          params: { path: { id: formula }, query: { rev: trial?.rev } },
          body: {
            id: trial?.id ?? 0,
            version: trial?.version ?? version.version,
            made_on: head.made_on,
            by: trial?.by ?? "",
            vessel: head.vessel,
            finished_g: head.finished ?? 0,
            score: head.score ?? 0,
            note: head.note,
            lines: used.map(({ r }) => ({
              ingredient: r.ingredient,
              component: r.component,
              grams: r.grams ?? 0,
              added_g: r.added ?? 0,
              reason: r.reason || undefined,
              instead_of: r.instead || undefined,
            })),
          },
        }),
      );
      await onStored(v);
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  const empty = rows.filter((r) => r.target != null && r.target > 0 && !(r.grams !== null && r.grams > 0));
  const [sure, setSure] = useState(false);
  // Enter goes on to the next field, as on the sheet: only the button keeps the trial
  const next = (e: KeyboardEvent<HTMLFormElement>) => {
    if (e.key !== "Enter" || !(e.target instanceof HTMLInputElement)) return;
    e.preventDefault();
    e.stopPropagation();
    const fields = [...e.currentTarget.querySelectorAll<HTMLElement>("input, textarea, [data-keeps]")];
    fields[fields.indexOf(e.target) + 1]?.focus();
  };
  const cell = "[&_label]:sr-only [&_.field]:text-right";
  return (
    <form className="flex min-h-0 gap-5 pb-6" onKeyDownCapture={next} onSubmit={(e) => e.preventDefault()}>
      <section className="sheet min-w-0 flex-1">
        <table className="ledger w-full table-fixed">
          <thead>
            <tr>
              <th className="pl-4">{trial ? "What went in" : `Into the bowl, after version ${version.version}`}</th>
              <th className="num w-21">sheet</th>
              <th className="num w-27">went in, g</th>
              <th className="num w-27">of it to taste, g</th>
              <th className="w-44 pl-3">why</th>
              <th className="w-23" />
            </tr>
          </thead>
          <tbody>
            {rows.map((r, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
              <tr key={i} className="focus-within:bg-cobalt-tint">
                <td className="truncate pl-4 text-lead">
                  {r.name}
                  {r.was && <small className="ml-2 text-note text-mustard-ink">instead of {r.was}</small>}
                  {error(i) && (
                    <span role="alert" className="block text-note font-semibold text-beet">
                      {error(i)}
                    </span>
                  )}
                </td>
                <td className="num text-ink-2">{r.target == null ? "" : num(r.target, 1)}</td>
                <td className="pl-3">
                  <NumberField
                    label={`Grams of ${r.name}`}
                    measure="mass"
                    className={cell}
                    allowEmpty
                    autoFocus={i === 0}
                    value={r.grams}
                    onValue={(n) => set(i, { grams: n })}
                  />
                </td>
                <td className="pl-3">
                  <NumberField
                    label={`Grams of ${r.name} added to taste`}
                    measure="mass"
                    className={cell}
                    allowEmpty
                    value={r.added}
                    onValue={(n) => set(i, { added: n })}
                  />
                </td>
                <td className="pl-3">
                  <input
                    className="field"
                    aria-label={`Why ${r.name} was added`}
                    maxLength={200}
                    value={r.reason}
                    placeholder={r.added ? "too flat, too dry …" : ""}
                    onChange={(e) => set(i, { reason: e.target.value })}
                  />
                </td>
                <td className="text-right">
                  {r.ingredient && (
                    <ChooseIngredient
                      label={`Something else instead of ${r.name}`}
                      className="min-h-7 px-2 text-note text-ink-3 hover:text-cobalt"
                      onChoose={(id, name) =>
                        set(i, { ingredient: id, name, instead: r.instead || (r.ingredient ?? ""), was: r.was || r.name })
                      }
                    >
                      instead …
                    </ChooseIngredient>
                  )}
                </td>
              </tr>
            ))}
            <tr>
              <td className="pl-2" colSpan={6}>
                <ChooseIngredient
                  label="Something more that went in"
                  onChoose={(id, name) =>
                    setRows([...rows, { ingredient: id, name, target: null, grams: null, added: null, reason: "", instead: "", was: "" }])
                  }
                >
                  Something more went in …
                </ChooseIngredient>
              </td>
            </tr>
          </tbody>
          <tfoot>
            <tr className="border-t-3 border-double border-rule-strong bg-paper-foot text-lead font-semibold">
              <td className="h-11! pl-4">in all</td>
              <td />
              <td className="num">
                {num(total, 1)}
                <span className="unit">g</span>
              </td>
              <td colSpan={3} />
            </tr>
          </tfoot>
        </table>
      </section>
      <aside className="grid w-62.5 shrink-0 content-start gap-3">
        <DateField
          label="Made on"
          max={today()}
          value={head.made_on}
          onValue={(day) => setHead({ ...head, made_on: day })}
          error={fieldMessage(problem, "made_on")}
        />
        <TextField
          label="Vessel"
          value={head.vessel}
          maxLength={120}
          placeholder={say("vessel_example")}
          onChange={(e) => setHead({ ...head, vessel: e.target.value })}
          error={fieldMessage(problem, "vessel")}
        />
        <div className="grid grid-cols-2 gap-3">
          <NumberField
            label="Made"
            unit="g"
            allowEmpty
            value={head.finished}
            onValue={(n) => setHead({ ...head, finished: n })}
            error={fieldMessage(problem, "finished_g")}
          />
          <NumberField
            label="Score"
            unit="of 10"
            allowEmpty
            value={head.score}
            onValue={(n) => setHead({ ...head, score: n === null ? null : Math.round(n) })}
            error={fieldMessage(problem, "score")}
          />
        </div>
        <AreaField
          label="How was it?"
          rows={4}
          value={head.note}
          maxLength={2000}
          onChange={(e) => setHead({ ...head, note: e.target.value })}
          error={fieldMessage(problem, "note")}
        />
        {problem && (
          <p role="alert" className="text-note font-semibold text-beet">
            {problem.title}
          </p>
        )}
        {sure && empty.length > 0 && (
          <p role="alert" className="border-l-4 border-mustard bg-mustard-tint px-2 py-1 text-note text-mustard-ink">
            <b>Without grams: {empty.map((r) => r.name).join(", ")}.</b> Weigh what is missing, or keep the trial without it: it counts as
            none of it.
          </p>
        )}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn-quiet" onClick={onClose}>
            Leave it
          </button>
          <button
            type="button"
            data-keeps
            className="btn"
            disabled={busy || used.length === 0}
            onClick={() => (empty.length > 0 && !sure ? setSure(true) : void save())}
          >
            {sure && empty.length > 0 ? "Keep it without" : "Keep the trial"}
          </button>
        </div>
      </aside>
    </form>
  );
}
