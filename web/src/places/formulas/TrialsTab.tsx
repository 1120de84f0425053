import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, fieldMessage, problemOf, type Schemas, take } from "../../api/client";
import { refreshVersions } from "../../api/queries/formulas";
import { refreshTrials, useStandard, useTrials } from "../../api/queries/trials";
import { Check } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { WhyDialog } from "../../parts/why";
import { useAct } from "../../saving/act";
import { fixed } from "../../tongue/quantity";
import { RecordTrial } from "./RecordTrial";
import type { TrialsData } from "./trials";
import type { Version } from "./useDraft";

type Standard = Schemas["StandardView"];
type StandardLine = Schemas["StandardLineView"];

/** Real makings of this product, and the standard that they propose. */
export function TrialsTab({
  formula,
  version,
  saving,
  onDraft,
}: {
  formula: string;
  version: Version;
  /** Something typed on the sheet is not stored yet. */
  saving: boolean;
  onDraft: (sheet: Schemas["SheetView"]) => void;
}) {
  const client = useQueryClient();
  const q = useTrials(formula);
  const [recording, setRecording] = useState<Schemas["TrialView"] | "new" | null>(null);
  if (q.isPending) return <Loading what="the trials" />;
  if (q.isError) return <Failed message={problemOf(q.error).title} again={() => q.refetch()} />;
  const stored = async (v: TrialsData) => {
    await refreshTrials(client, v);
    setRecording(null);
  };
  if (recording)
    return (
      <RecordTrial
        formula={formula}
        version={version}
        names={q.data.names}
        trial={recording === "new" ? null : recording}
        onClose={() => setRecording(null)}
        onStored={stored}
      />
    );
  return <Trials data={q.data} saving={saving} onRecord={setRecording} onStored={stored} onDraft={onDraft} />;
}

function Trials({
  data,
  saving,
  onRecord,
  onStored,
  onDraft,
}: {
  data: TrialsData;
  saving: boolean;
  onDraft: (sheet: Schemas["SheetView"]) => void;
  onRecord: (t: Schemas["TrialView"] | "new") => void;
  onStored: (v: TrialsData) => Promise<void>;
}) {
  const { num, day, money, shop } = useFormats();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [left, setLeft] = useState<number[]>([]);
  const [reference, setReference] = useState<number | null>(data.reference_g > 0 ? data.reference_g : 1000);
  const [division, setDivision] = useState<number | null>(data.division_g);
  const [byScore, setByScore] = useState(false);
  const chosen = data.trials.filter((t) => !t.open && !left.includes(t.id)).map((t) => t.id);
  const choice = { trials: chosen, reference_g: reference ?? 0, division_g: division ?? 0, by_score: byScore };
  const s = useStandard(data.formula, choice);
  const problem = s.error ? problemOf(s.error) : null;
  const [draft, drafting] = useAct(async () => {
    try {
      const sheet = await take(api.POST("/formulas/{id}/standard/draft", { params: { path: { id: data.formula } }, body: choice }));
      onDraft(sheet);
      await refreshVersions(client, sheet);
      toast(`The standard is draft ${sheet.version.version} now.`);
      navigate(`/formulas/${sheet.formula}/${sheet.version.version}`);
    } catch (e) {
      toast.error(problemOf(e).title);
    }
  });
  const [going, setGoing] = useState<number | null>(null);
  const drop = async (why: string) =>
    onStored(
      await take(
        api.DELETE("/formulas/{id}/trials/{trial}", { params: { path: { id: data.formula, trial: going ?? 0 }, query: { why } } }),
      ),
    );
  return (
    <div className="pt-2 pb-8">
      <WhyDialog open={going !== null} title="Take this trial out" button="Take it out" act={drop} onClose={() => setGoing(null)} />
      <div className="flex items-start gap-4">
        <ol className="flex min-w-0 flex-1 flex-wrap gap-3" aria-label="Trials">
          {data.trials.map((t, i) => (
            <li
              key={t.id}
              className={`relative w-55.5 border border-paper-edge bg-paper px-3 pt-2.5 pb-2 shadow-lift ${left.includes(t.id) ? "opacity-60" : ""}`}
            >
              <span aria-hidden className="absolute -top-1.25 left-1/2 -ml-1.5 size-2.25 rounded-full border border-paper-edge bg-glaze" />
              <div className="flex items-baseline justify-between">
                <b className="font-title text-lead">{day(t.made_on, true)}</b>
                <span className="text-note">
                  {t.score > 0 ? (
                    <>
                      <b className="text-lead">{t.score}</b>
                      <span className="unit">of 10</span>
                    </>
                  ) : (
                    <span className="text-ink-3">no score</span>
                  )}
                </span>
              </div>
              <p className="truncate text-note text-ink-2">
                {t.by}, {num(t.grams, 0)} g in{t.finished_g > 0 && <>, {num(t.finished_g, 0)} g made</>}
              </p>
              {t.note && (
                <p className="truncate text-note text-ink-2 italic" title={t.note}>
                  “{t.note}”
                </p>
              )}
              <div className="mt-1 flex items-center justify-between whitespace-nowrap">
                {t.open ? (
                  <b className="text-note text-mustard-ink">still going on</b>
                ) : (
                  <Check
                    label={`counts as ${LETTERS[i] ?? i + 1}`}
                    checked={!left.includes(t.id)}
                    onChange={(on) => setLeft(on ? left.filter((x) => x !== t.id) : [...left, t.id])}
                  />
                )}
                <span>
                  {(t.log ?? []).length > 0 ? (
                    <Link className="px-1 text-note font-semibold text-cobalt" to={`/formulas/${data.formula}/making/${t.id}`}>
                      {t.open ? "go on" : "its log"}
                    </Link>
                  ) : (
                    <button type="button" className="min-h-6 px-1 text-note font-semibold text-cobalt" onClick={() => onRecord(t)}>
                      open
                    </button>
                  )}
                  <button
                    type="button"
                    className="min-h-6 px-1 text-note text-ink-3 hover:text-beet"
                    aria-label={`Take out the trial of ${day(t.made_on, true)}`}
                    onClick={() => setGoing(t.id)}
                  >
                    take out
                  </button>
                </span>
              </div>
            </li>
          ))}
          <li className="self-center">
            <Link className="btn inline-flex items-center" to={`/formulas/${data.formula}/making/new`}>
              Log it as it happens
            </Link>
            <button type="button" className="btn-quiet ml-2" onClick={() => onRecord("new")}>
              Record a making
            </button>
          </li>
        </ol>
      </div>
      {data.trials.length === 0 && (
        <p className="mt-3 max-w-xl text-body text-ink-2">
          Make it two or three times as you always do, weigh what goes in, and record it here with what was added to taste. Gallipot shows
          which line wanders, what that does to pH, salt and cost, and proposes the standard.
        </p>
      )}
      {chosen.length === 1 && <p className="mt-3 text-body text-ink-2">One more making, and a standard can be proposed.</p>}
      {chosen.length >= 2 && (
        <>
          <div className="mt-4 flex flex-wrap items-end gap-4">
            <NumberField
              className="w-37.5"
              label="Standard batch"
              unit="g"
              value={reference}
              onValue={setReference}
              error={fieldMessage(problem, "reference_g")}
            />
            <NumberField
              className="w-32.5"
              label="Scale's division"
              unit="g"
              value={division}
              onValue={setDivision}
              error={fieldMessage(problem, "division_g")}
            />
            <Check label="the better it tasted, the more it counts" checked={byScore} onChange={setByScore} />
            <div className="ml-auto flex items-center gap-4">
              {s.data && (
                <span className="text-note text-ink-2">
                  {s.data.at_least && "at least "}
                  {money(s.data.per_jar)} {shop.currency} a jar
                  {s.data.ph.low != null && s.data.ph.high != null && (
                    <>
                      , pH <span aria-hidden className="hatch mr-1 inline-block h-2.5 w-6 border border-cobalt align-baseline" />
                      {fixed(s.data.ph.low, 2)} to {fixed(s.data.ph.high, 2)}
                    </>
                  )}
                </span>
              )}
              <button type="button" className="btn" onClick={draft} disabled={!s.data || !!problem || saving || drafting}>
                Make it the draft
              </button>
            </div>
          </div>
          {problem && (
            <p role="alert" className="mt-2 text-note font-semibold text-beet">
              {problem.title}
            </p>
          )}
          {s.data && <Chart s={s.data} />}
        </>
      )}
    </div>
  );
}

const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ".split("");
const WIDTH = 280;
const REACH = 40; // percent of the standard to either side

/** Each line's makings as dots around its standard, what the spread does, and the proposed grams. */
function Chart({ s }: { s: Standard }) {
  const { num } = useFormats();
  const total = s.lines.reduce((sum, l) => sum + l.grams, 0);
  return (
    <section className="sheet mt-3 overflow-x-auto">
      <table className="ledger w-full">
        <thead>
          <tr>
            <th className="pl-4">Line</th>
            <th style={{ width: WIDTH }}>
              <span className="flex justify-between pr-2">
                <span>−{REACH} %</span>
                <span>its makings around the standard</span>
                <span>+{REACH} %</span>
              </span>
            </th>
            <th className="num">mean</th>
            <th className="num">varies</th>
            <th className="pl-5">what that does</th>
            <th className="num">now</th>
            <th className="num">standard</th>
            <th className="num pr-4">to within</th>
          </tr>
        </thead>
        <tbody>
          {s.lines.map((l) => (
            <tr key={l.key} className={l.wander.care.length > 0 || l.varies ? "bg-mustard-tint/50" : ""}>
              <td className="max-w-49 truncate pl-4 text-lead">
                {l.name}
                {l.absent_in > 0 && (
                  <small className="ml-2 text-note text-mustard-ink">
                    not in {l.absent_in} of {s.days.length}
                  </small>
                )}
              </td>
              <td>
                <Dots l={l} days={s.days} />
              </td>
              <td className="num whitespace-nowrap">
                {num(l.mean_percent, 2)}
                <span className="unit">%</span>
              </td>
              <td className={`num whitespace-nowrap ${l.varies ? "font-semibold text-mustard-ink" : ""}`}>
                ±{num(l.cv_percent, 1)}
                <span className="unit">%</span>
              </td>
              <td className="min-w-37.5 py-1 pl-4 text-note leading-tight">
                <Does l={l} />
              </td>
              <td className="num whitespace-nowrap text-ink-2">{l.now_g == null ? "–" : num(l.now_g, 1)}</td>
              <td className="num text-lead font-semibold whitespace-nowrap">
                {num(l.grams, 1)}
                <span className="unit">g</span>
              </td>
              <td className="num pr-4 whitespace-nowrap">
                ±{num(l.wander.tolerance_percent, 1)}
                <span className="unit">%</span>
              </td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr className="border-t-3 border-double border-rule-strong bg-paper-foot font-semibold">
            <td className="pl-4">{s.days.length} makings</td>
            <td className="text-note font-normal text-ink-2">
              <span className="mr-4 inline-flex items-center gap-1">
                <svg width="10" height="10" aria-hidden="true">
                  <circle cx="5" cy="5" r="4.500" fill="var(--color-cobalt)" />
                </svg>
                a making, weighed
              </span>
              <span className="mr-4 inline-flex items-center gap-1">
                <svg width="10" height="10" aria-hidden="true">
                  <circle cx="5" cy="5" r="4" fill="#fff" stroke="var(--color-cobalt)" strokeWidth="1.500" />
                </svg>
                without it
              </span>
              <span className="inline-flex items-center gap-1">
                <span aria-hidden className="inline-block h-2.5 w-3.5 bg-cobalt-tint" />
                tolerance
              </span>
            </td>
            <td className="num">100.00</td>
            <td colSpan={3} />
            <td className="num text-lead">
              {num(total, 1)}
              <span className="unit">g</span>
            </td>
            <td />
          </tr>
        </tfoot>
      </table>
    </section>
  );
}

function Dots({ l, days }: { l: StandardLine; days: string[] }) {
  const { num } = useFormats();
  const off = l.percents.map((p) => (l.mean_percent > 0 ? (100 * (p - l.mean_percent)) / l.mean_percent : 0));
  const x = (d: number) => WIDTH / 2 + (Math.max(-REACH, Math.min(REACH, d)) / REACH) * (WIDTH / 2 - 14);
  const t = Math.min(REACH, l.wander.tolerance_percent);
  const words = l.percents.map((p, i) => `${LETTERS[i]} ${p > 0 ? `${num(p, 2)} %` : "without it"}`).join(", ");
  return (
    <svg width={WIDTH} height="34" viewBox={`0 0 ${WIDTH} 34`} role="img" aria-label={`${l.name}: ${words}`} className="block">
      <rect x={x(-t)} y="5" width={Math.max(2, x(t) - x(-t))} height="24" fill="var(--color-cobalt-tint)" />
      <path d={`M6 17H${WIDTH - 6}`} stroke="var(--color-rule)" />
      <path d={`M${WIDTH / 2} 3v28`} stroke="var(--color-cobalt-deep)" strokeWidth="2" />
      {off.map((d, i) => {
        const without = l.percents[i] === 0;
        const beyond = Math.abs(d) > REACH;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: makings have no identity here but their place
          <g key={i}>
            <title>
              {days[i]}: {without ? "without it" : `${num(l.percents[i], 2)} %, ${d >= 0 ? "+" : "−"}${num(Math.abs(d), 0)} %`}
            </title>
            <circle
              cx={x(d)}
              cy="17"
              r="8"
              fill={without ? "#fff" : "var(--color-cobalt)"}
              stroke={beyond ? "var(--color-mustard)" : "var(--color-cobalt)"}
              strokeWidth={beyond ? 2.5 : 1.5}
            />
            <text x={x(d)} y="21" textAnchor="middle" fontSize="11" fontWeight="600" fill={without ? "var(--color-cobalt)" : "#fff"}>
              {LETTERS[i]}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

function Does({ l }: { l: StandardLine }) {
  const { num } = useFormats();
  const parts: string[] = [];
  if (l.wander.ph != null && l.wander.ph >= 0.005) parts.push(`pH ±${num(l.wander.ph, 2)}`);
  if (l.wander.salt_pp >= 0.015) parts.push(`salt ±${num(l.wander.salt_pp, 2)} pt`);
  if (l.wander.cost_percent != null && l.wander.cost_percent >= 0.15) parts.push(`cost ±${num(l.wander.cost_percent, 1)} %`);
  return (
    <>
      {l.wander.care.length > 0 ? (
        <b className="text-mustard-ink">Weigh with care: {l.wander.care.join(", ")}. </b>
      ) : l.varies ? (
        <b className="text-mustard-ink">It wanders. </b>
      ) : null}
      <span className="text-ink-2">{parts.join(", ") || "next to nothing"}</span>
    </>
  );
}
