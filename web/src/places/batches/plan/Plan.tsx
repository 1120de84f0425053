import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../../api/client";
import { type PlanAsk, usePlanOf, usePlanPreview } from "../../../api/queries/batches";
import { refreshAll } from "../../../api/queries/keys";
import { DayCell } from "../../../parts/date";
import { Head } from "../../../parts/form";
import { Caution, Failed, Loading } from "../../../parts/marks";
import { SaidNumber, saidLook, Wrong } from "../../../parts/said";
import { Select } from "../../../parts/select";
import { useMe } from "../../../parts/session";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
import { today } from "../../../tongue/clock";
import { say } from "../../../tongue/words";
import { AtSize } from "./AtSize";
import { Bowls } from "./Bowls";
import { DayLine } from "./DayLine";
import { LoadSheet } from "./LoadSheet";
import { ToGet } from "./ToGet";

type View = Schemas["PlanView"];

/** A batch before it is made: jars in; loads, timetable and shopping list out. */
export default function Plan() {
  const { formula = "", version = "1" } = useParams();
  const wanted = Number(useSearchParams()[0].get("jars")) || 48;
  const { day } = useFormats();
  const me = useMe();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [ask, setAsk] = useState<PlanAsk>({ formula, version: Number(version), jars: wanted, made_on: today() });
  const preview = usePlanPreview(ask);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [make, busy] = useAct(async () => {
    try {
      const b = await take(api.POST("/batches", { body: ask }));
      await refreshAll(client);
      navigate(`/batches/${b.id}/${ask.made_on > today() ? "plan" : "weigh"}`);
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  const wrong = problem ?? (preview.isError ? problemOf(preview.error) : null);
  const put = (part: Partial<PlanAsk>) => {
    setProblem(null);
    setAsk((a) => ({ ...a, ...part }));
  };
  const plan = preview.data;
  if (!plan && preview.isPending) return <Loading what="the plan" />;
  if (!plan) return <Failed message={wrong?.title ?? ""} again={() => preview.refetch()} />;
  return (
    <div className="prints px-6 pt-4 pb-8 max-tablet:px-3">
      <Head
        title={plan.name}
        sub={
          <>
            version{" "}
            <Link className="text-cobalt underline" to={`/formulas/${formula}/${version}`}>
              {version}
            </Link>
            , a batch for {ask.made_on === today() ? "today" : day(ask.made_on, true)}
          </>
        }
      >
        <Link to={`/rehearse/${formula}/${version}`} className="btn-line inline-flex items-center">
          Rehearse it
        </Link>
        <button
          type="button"
          className="btn"
          disabled={busy || (!!wrong && !preview.isFetching) || !me.may("maker")}
          title={me.may("maker") ? undefined : "A maker or an owner plans a batch."}
          onClick={make}
        >
          Plan it
        </button>
      </Head>
      <Wish ask={ask} plan={plan} put={put} problem={wrong} />
      {wrong && wrong.fields.length === 0 && (
        <p role="alert" className="mt-2 font-semibold text-beet">
          {wrong.title}
        </p>
      )}
      <Sheets plan={plan} />
    </div>
  );
}

const WAYS = [
  ["jars", "jars"],
  ["grams", "g in the bowl"],
  ["lot", "what is left of lot"],
] as const;

/** The wish, as a sentence that is changed where it stands. */
function Wish({ ask, plan, put, problem }: { ask: PlanAsk; plan: View; put: (p: Partial<PlanAsk>) => void; problem: Problem | null }) {
  const { num } = useFormats();
  const [way, setWay] = useState<"jars" | "grams" | "lot">("jars");
  const [lot, setLot] = useState("");
  const [start, setStart] = useState(plan.start_at);
  const e = (name: string) => fieldMessage(problem, name);
  const choose = (next: string) => {
    setWay(next as typeof way);
    if (next === "jars") put({ jars: plan.jars, grams: undefined, use_up: undefined });
    if (next === "grams") put({ jars: undefined, use_up: undefined, grams: Math.round(plan.total_g) });
  };
  return (
    <div className="no-print mt-2 flex flex-wrap items-baseline gap-x-7 gap-y-2 border-b border-rule-strong pb-3 text-lead text-ink-2">
      <span className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1">
        {way === "jars" && (
          <SaidNumber label="Jars wanted" value={ask.jars ?? plan.jars} onValue={(n) => put({ jars: n })} whole error={e("jars")} />
        )}
        {way === "grams" && (
          <SaidNumber
            label="Grams in the bowl"
            value={ask.grams ?? plan.total_g}
            onValue={(n) => put({ grams: n })}
            error={e("grams") || e("jars")}
          />
        )}
        <Select aria-label="How much" value={way} onValue={choose} options={WAYS} className={`${saidLook} inline-flex! w-auto`} />
        {way === "lot" && (
          <span className="relative">
            <input
              aria-label="Lot to use up"
              className={saidLook}
              style={{ width: `${Math.max(8, lot.length + 1)}ch` }}
              placeholder="its code"
              value={lot}
              onChange={(x) => setLot(x.target.value)}
              onBlur={() => lot.trim() && put({ use_up: lot.trim(), jars: undefined, grams: undefined })}
              onKeyDown={(x) => x.key === "Enter" && lot.trim() && put({ use_up: lot.trim(), jars: undefined, grams: undefined })}
            />
            {e("use_up") && <Wrong id="lot-e">{e("use_up")}</Wrong>}
          </span>
        )}
        {way !== "jars" && <b className="font-semibold text-ink">= {say("jars", { count: plan.jars })}</b>}
        <span>of</span>
        <b className="font-semibold whitespace-nowrap text-ink">{num(plan.fill_g, Number.isInteger(plan.fill_g) ? 0 : 1)} g,</b>
        <SaidNumber
          label="Overfill percent"
          unit="%"
          value={ask.overfill_percent ?? plan.overfill_percent}
          onValue={(n) => put({ overfill_percent: n })}
          error={e("overfill_percent")}
        />
        <span>over,</span>
        <SaidNumber
          label="Lost percent"
          unit="%"
          value={ask.loss_percent ?? plan.loss_percent}
          onValue={(n) => put({ loss_percent: n })}
          error={e("loss_percent")}
        />
        <span>lost,</span>
        <SaidNumber
          label="Samples in grams"
          unit="g"
          value={ask.sample_g ?? plan.sample_g}
          onValue={(n) => put({ sample_g: n })}
          error={e("sample_g")}
        />
        <span>kept as samples</span>
      </span>
      <span className="flex items-baseline gap-1.5">
        <span>in</span>
        <span className="relative">
          <Select
            aria-label="Vessel"
            value={String(plan.vessel.id)}
            onValue={(v) => put({ vessel: Number(v) })}
            options={[["0", "no vessel named"], ...plan.vessels.map((v) => [String(v.id), v.name] as const)]}
            className={`${saidLook} inline-flex! w-auto`}
          />
          {e("vessel") && <Wrong id="vessel-e">{e("vessel")}</Wrong>}
        </span>
      </span>
      <span className="relative flex items-baseline gap-1.5">
        <span>on the bench</span>
        <DayCell
          label="Made on"
          className={`${saidLook} w-[10.5ch]`}
          value={ask.made_on}
          onValue={(d) => /^\d{4}-\d\d-\d\d$/.test(d) && put({ made_on: d })}
        />
        <span>at</span>
        <input
          aria-label="Begins at"
          className={`${saidLook} w-[6ch]`}
          value={start}
          onChange={(x) => setStart(x.target.value)}
          onBlur={() => put({ start_at: asClock(start) })}
          onKeyDown={(x) => x.key === "Enter" && put({ start_at: asClock(start) })}
        />
        {(e("made_on") || e("start_at")) && <Wrong id="start-e">{e("made_on") || e("start_at")}</Wrong>}
      </span>
    </div>
  );
}

/** An hour as people type it, as 09:30; what is none stays as it is, and is refused where it was typed. */
export function asClock(text: string): string {
  const m = /^\s*(\d{1,2})(?:[:.h](\d{2}))?\s*(am|pm)?\s*$/i.exec(text);
  if (!m) return text.trim();
  const half = m[3]?.toLowerCase();
  const hour = half ? (Number(m[1]) % 12) + (half === "pm" ? 12 : 0) : Number(m[1]);
  return `${String(hour).padStart(2, "0")}:${m[2] ?? "00"}`;
}

/** What follows from the wish. */
function Sheets({ plan }: { plan: View }) {
  const { num } = useFormats();
  const level = plan.below_least ? "danger" : plan.vessel.id === 0 ? "note" : "good";
  const loads = plan.loads.length === 1 ? "One load" : `${plan.loads.length} equal loads`;
  return (
    <>
      <div className="mt-3.5 grid grid-cols-[310px_minmax(0,1fr)] gap-5 max-tablet:grid-cols-1">
        <section className="sheet px-4.5 py-3" aria-labelledby="loads">
          <h2 id="loads" className="mb-2 font-title text-lead text-ink-2 italic">
            {loads}, {num(plan.total_g, Number.isInteger(plan.total_g) ? 0 : 1)} g in all
          </h2>
          <Bowls plan={plan} />
          <div className="mt-3">
            <Caution level={level} title={plan.below_least ? "Too little for the bowl." : ""}>
              {plan.word}
            </Caution>
          </div>
          {plan.aimed && (
            <p className="mt-3 text-note text-ink-2">
              Jars are filled to <b className="text-ink">{num(plan.aimed.grams)} g</b> since{" "}
              <Link className="text-cobalt underline" to={`/batches/${plan.aimed.batch}`}>
                {plan.aimed.code}
              </Link>
              : {plan.aimed.reason}.
            </p>
          )}
          <AtSize formula={plan.formula} number={plan.version} jars={plan.jars} />
        </section>
        <section className="sheet min-w-0 px-4.5 py-3" aria-labelledby="day">
          <h2 id="day" className="mb-1 font-title text-lead text-ink-2 italic">
            {plan.day.word}
          </h2>
          <DayLine day={plan.day} />
        </section>
      </div>
      <ToGet plan={plan} />
      <LoadSheet plan={plan} />
    </>
  );
}

/** The plan of a batch that was decided: text, not fields. */
export function DecidedPlan({ batch }: { batch: number }) {
  const plan = usePlanOf(batch);
  const { num, day } = useFormats();
  if (plan.isPending) return <Loading what="the plan" />;
  if (plan.isError) return <Failed message={problemOf(plan.error).title} />;
  const p = plan.data;
  return (
    <div>
      <p className="border-b border-rule-strong pb-2 text-lead text-ink-2">
        <b className="text-ink">{say("jars", { count: p.jars })}</b> of <b className="text-ink">{num(p.fill_g)} g</b>,{" "}
        {num(p.overfill_percent, 1)} % over, {num(p.loss_percent, 1)} % lost, {num(p.sample_g)} g kept as samples
        {p.vessel.id > 0 && <>, in {p.vessel.name}</>}, on the bench {day(p.made_on)} at <b className="text-ink">{p.start_at}</b>
      </p>
      <Sheets plan={p} />
    </div>
  );
}
