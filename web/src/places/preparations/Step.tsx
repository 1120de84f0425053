import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { refreshPreparation } from "../../api/queries/preparations";
import { DateField } from "../../parts/date";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { today } from "../../tongue/clock";
import { LessWater } from "./LessWater";
import { Routes } from "./Routes";
import { StepEditor } from "./StepEditor";
import { type PreparationData, stepWords } from "./ways";

/** One kitchen step as a page: its yield, what it costs, and how it really went. */
export function Step({ p, all }: { p: PreparationData; all: PreparationData[] }) {
  const { num, money, day, shop } = useFormats();
  const client = useQueryClient();
  const [editing, setEditing] = useState(false);
  const done = async (v: PreparationData) => {
    await refreshPreparation(client, v);
  };
  const drop = async (index: number) => {
    try {
      await done(
        await take(api.DELETE("/preparations/{id}/yields/{index}", { params: { path: { id: p.id, index }, query: { rev: p.rev } } })),
      );
    } catch (e) {
      toast.error(problemOf(e).title);
    }
  };
  const records = p.records ?? [];
  const y = p.expected;
  return (
    <article className="pb-6">
      <header className="flex items-start justify-between gap-4">
        <div className="min-w-0">
          <h2 className="font-title text-title leading-tight font-semibold">
            {p.input_name}, <i>{stepWords(p.name)}</i>
          </h2>
          <p className="mt-1 text-note text-ink-2">
            gives{" "}
            <Link className="font-semibold text-cobalt hover:underline" to={`/pantry/${p.output}`}>
              {p.output_name}
            </Link>
            {p.co_output_name && (
              <>
                {" and, from the same pieces, "}
                <Link className="font-semibold text-cobalt hover:underline" to={`/pantry/${p.co_output}`}>
                  {p.co_output_name}
                </Link>
              </>
            )}
            {p.preferred && "; the way this shop makes it"}
          </p>
        </div>
        <div className="flex shrink-0">
          <LessWater p={p} />
          <button type="button" className="btn-quiet" onClick={() => setEditing(true)}>
            Change the step
          </button>
        </div>
      </header>
      <div className="mt-3 flex flex-wrap gap-x-10 gap-y-3">
        <div>
          <div className="figure leading-none font-semibold tracking-tight">
            {num(y.percent, y.percent < 10 ? 1 : 0)}
            <small className="ml-1 text-lead font-medium tracking-normal text-ink-2">% comes out</small>
          </div>
          <p className="mt-1 text-note text-ink-2">
            ±{num(y.spread_percent, 1)} %
            {y.co_percent > 0 && (
              <>
                , and {num(y.co_percent, 1)} % {p.co_output_name}
              </>
            )}
          </p>
          <p className="text-note text-ink-2">
            {y.recorded != null ? (
              <>
                yours {num(y.recorded, 1)} % over {y.trials}, typical {num(y.typical, 1)} % counts as one more
              </>
            ) : (
              <>
                <span aria-hidden className="hatch mr-1 inline-block h-2.5 w-5 border border-cobalt align-baseline" />
                {p.typical ? "typical, nothing recorded yet" : "as you stated, nothing recorded yet"}
              </>
            )}
          </p>
        </div>
        <dl className="grid grid-cols-[auto_auto] content-start gap-x-4 text-note text-ink-2">
          <dt>hands on</dt>
          <dd className="text-right font-semibold text-ink">
            {num(p.labour_min_per_kg, 0)}
            <span className="unit">min/kg</span>
          </dd>
          <dt>waiting</dt>
          <dd className="text-right font-semibold text-ink">
            {p.wait_min >= 120 ? num(p.wait_min / 60, 1) : num(p.wait_min, 0)}
            <span className="unit">{p.wait_min >= 120 ? "h" : "min"}</span>
          </dd>
          <dt>what goes in</dt>
          <dd className="text-right font-semibold text-ink">
            {p.in_per_kg == null ? "no price" : money(p.in_per_kg)}
            {p.in_per_kg != null && <span className="unit">{shop.currency}/kg</span>}
          </dd>
          <dt>what comes out</dt>
          <dd className="text-right font-semibold text-ink">
            {p.out_per_kg == null ? "–" : money(p.out_per_kg)}
            {p.out_per_kg != null && <span className="unit">{shop.currency}/kg</span>}
          </dd>
          {p.co_output && (
            <>
              <dt>beside it</dt>
              <dd className="text-right font-semibold text-ink">
                {p.co_per_kg == null ? "–" : money(p.co_per_kg)}
                {p.co_per_kg != null && <span className="unit">{shop.currency}/kg</span>}
              </dd>
            </>
          )}
        </dl>
        {p.look_for && (
          <div className="w-full border-l-4 border-cobalt-pale pl-3">
            <p className="font-title text-lead leading-normal italic">
              <span className="mr-2 font-text text-note text-ink-3 not-italic">look for</span>
              {p.look_for}
            </p>
          </div>
        )}
      </div>
      <section className="sheet mt-4 p-4">
        <h3 className="phase mb-2 text-lead">How it really went</h3>
        {records.length > 0 && <YieldDots p={p} />}
        {records.length > 0 && (
          <table className="ledger mb-3 w-full">
            <thead>
              <tr>
                <th>Day</th>
                <th className="num">in</th>
                <th className="num">out</th>
                {p.co_output && <th className="num">{p.co_output_name}</th>}
                <th className="num">yield</th>
                <th className="pl-6">who, note</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {records.map((r, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: two makings of a day may be alike
                <tr key={i} className={i < records.length - 5 ? "text-ink-3" : ""}>
                  <td>{day(r.day)}</td>
                  <td className="num">
                    {num(r.in_g, 0)}
                    <span className="unit">g</span>
                  </td>
                  <td className="num">
                    {num(r.out_g, 0)}
                    <span className="unit">g</span>
                  </td>
                  {p.co_output && (
                    <td className="num">
                      {r.co_out_g ? num(r.co_out_g, 0) : "–"}
                      <span className="unit">g</span>
                    </td>
                  )}
                  <td className="num font-semibold">
                    {num((100 * r.out_g) / r.in_g, 1)}
                    <span className="unit">%</span>
                  </td>
                  <td className="max-w-45 truncate pl-6 text-note text-ink-2">
                    {r.who}
                    {r.note && `, ${r.note}`}
                  </td>
                  <td className="text-right">
                    <button
                      type="button"
                      className="btn-quiet text-note!"
                      aria-label={`Take out the making of ${day(r.day)}`}
                      onClick={() => drop(i)}
                    >
                      take out
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        <Record p={p} onDone={done} />
      </section>
      <Routes p={p} all={all} />
      {editing && (
        <StepEditor
          step={p}
          onClose={() => setEditing(false)}
          onSaved={async (v) => {
            setEditing(false);
            await done(v);
          }}
        />
      )}
    </article>
  );
}

/** Recorded yields as dots on the typical one with its spread. */
function YieldDots({ p }: { p: PreparationData }) {
  const { num } = useFormats();
  const records = (p.records ?? []).slice(-12).map((r) => (100 * r.out_g) / r.in_g);
  const sd = (p.yield_percent * p.spread_percent) / 100;
  const low = Math.min(p.yield_percent - 2.2 * sd, ...records);
  const high = Math.max(p.yield_percent + 2.2 * sd, ...records);
  const W = 520;
  const x = (v: number) => 8 + ((W - 16) * (v - low)) / Math.max(0.01, high - low);
  return (
    <svg
      width={W}
      height="58"
      viewBox={`0 0 ${W} 58`}
      role="img"
      aria-label={`Recorded ${records.map((r) => num(r, 1)).join(", ")} percent; typical ${num(p.yield_percent, 1)}`}
      className="mb-2 block max-w-full"
    >
      <defs>
        <pattern id="yield-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--color-cobalt-tint)" />
          <path d="M0 0v6" stroke="var(--color-wash)" strokeWidth="2" />
        </pattern>
      </defs>
      <rect
        x={x(p.yield_percent - sd)}
        y="8"
        width={Math.max(2, x(p.yield_percent + sd) - x(p.yield_percent - sd))}
        height="24"
        fill="url(#yield-hatch)"
      />
      <path d={`M8 32H${W - 8}`} stroke="var(--color-rule-strong)" />
      <path d={`M${x(p.expected.percent)} 4v34`} stroke="var(--color-cobalt-deep)" strokeWidth="2.500" />
      {records.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: yields have no identity but their place
        <circle key={i} cx={x(r)} cy="20" r="5" fill="var(--color-cobalt)" fillOpacity={i < records.length - 5 ? 0.35 : 1} />
      ))}
      <text x={x(p.expected.percent)} y="52" textAnchor="middle" fontSize="12.500" fontWeight="600" fill="var(--color-ink)">
        expect {num(p.expected.percent, 1)} %
      </text>
    </svg>
  );
}

function Record({ p, onDone }: { p: PreparationData; onDone: (v: PreparationData) => Promise<void> }) {
  const blank = { day: today(), in_g: null as number | null, out_g: null as number | null, co: null as number | null, note: "" };
  const [f, setF] = useState(blank);
  const [round, setRound] = useState(0);
  const [problem, setProblem] = useState<Problem | null>(null);
  const save = async () => {
    try {
      const v = await take(
        api.POST("/preparations/{id}/yields", {
          params: { path: { id: p.id }, query: { rev: p.rev } },
          body: { day: f.day, in_g: f.in_g ?? 0, out_g: f.out_g ?? 0, co_out_g: f.co ?? undefined, note: f.note || undefined },
        }),
      );
      setProblem(null);
      setF(blank);
      setRound(round + 1);
      toast("Recorded. The expected yield follows.");
      await onDone(v);
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  return (
    <form
      key={round}
      className="flex flex-wrap items-start gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <DateField
        className="w-33"
        label="Made on"
        max={today()}
        value={f.day}
        onValue={(day) => setF({ ...f, day: day })}
        error={fieldMessage(problem, "day")}
      />
      <NumberField
        className="w-21"
        label="Went in"
        unit="g"
        allowEmpty
        value={f.in_g}
        onValue={(n) => setF({ ...f, in_g: n })}
        error={fieldMessage(problem, "in_g")}
      />
      <NumberField
        className="w-21"
        label="Came out"
        unit="g"
        allowEmpty
        value={f.out_g}
        onValue={(n) => setF({ ...f, out_g: n })}
        error={fieldMessage(problem, "out_g")}
      />
      {p.co_output && (
        <NumberField
          className="w-21"
          label="Beside it"
          unit="g"
          allowEmpty
          value={f.co}
          onValue={(n) => setF({ ...f, co: n })}
          error={fieldMessage(problem, "co_out_g")}
        />
      )}
      <TextField
        className="min-w-22.5 flex-1"
        label="Note"
        maxLength={200}
        value={f.note}
        onChange={(e) => setF({ ...f, note: e.target.value })}
        error={fieldMessage(problem, "note")}
      />
      <button type="submit" className="btn-line mt-5.5" disabled={f.in_g === null || f.out_g === null}>
        Record it
      </button>
      {problem && problem.fields.length === 0 && (
        <p role="alert" className="w-full text-note font-semibold text-beet">
          {problem.title}
        </p>
      )}
    </form>
  );
}
