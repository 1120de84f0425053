import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, problemOf, take } from "../../api/client";
import { refreshBatch, useBatch } from "../../api/queries/batches";
import { refreshLabels, useLabels } from "../../api/queries/labels";
import { Head } from "../../parts/form";
import { Caution, Failed, Loading, State } from "../../parts/marks";
import { PhAxis } from "../../parts/ph";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { insist, underKey } from "../../saving/insist";
import { useKeptCount } from "../../saving/kept";
import { today } from "../../tongue/clock";
import { capital, dateWord, say } from "../../tongue/words";
import { HistoryButton } from "../history/History";
import { usualLabel } from "../labels/stock";
import { CostByLots } from "./CostByLots";
import { Decide } from "./Decide";
import { FillSection } from "./FillSection";
import { JarsSection } from "./JarsSection";
import { RestedButton } from "./Kept";
import { DecidedPlan } from "./plan/Plan";
import { Readings } from "./Readings";
import type { BatchData, Write } from "./record";
import { SheetBench } from "./SheetBench";
import { WeighSheet } from "./WeighSheet";

/** What is a fact of the bench whenever it arrives, and is sent until it is answered. A decision is not. */
const FACTS: Record<string, string> = {
  weighing: "a weighing",
  fill: "the filling",
  heat: "the heat step",
  reading: "a reading",
  laboratory: "the laboratory's value",
  strained: "the straining",
  cooled: "a temperature",
  net_weights: "what full jars weigh",
  counted: "what was left",
};

export default function Batch() {
  const id = Number(useParams().id);
  const client = useQueryClient();
  const batch = useBatch(id);
  if (batch.isPending) return <Loading what="the batch" />;
  if (batch.isError) return <Failed message={problemOf(batch.error).title} again={() => batch.refetch()} />;
  const write: Write = async (entry) => {
    const errand = `batch ${id} ${JSON.stringify(entry)}`;
    const send = (key: string) => take(api.POST("/batches/{id}/entries", { params: { path: { id }, query: { key } }, body: entry }));
    try {
      const fact = FACTS[entry.kind];
      const next = await (fact ? insist(`${fact} of ${batch.data.code}`, errand, send) : underKey(errand, send));
      refreshBatch(client, id, next);
      return null;
    } catch (e) {
      return problemOf(e);
    }
  };
  return <Page b={batch.data} write={write} />;
}

const DECIDED: Record<string, string> = { hold: "Put on hold", released: "Released", rejected: "Rejected", called_back: "Called back" };

function Page({ b, write }: { b: BatchData; write: Write }) {
  const { day, num } = useFormats();
  const labels = useLabels();
  const r = b.record;
  const typed = useKeptCount(`weigh ${b.id} `); // rows of the weigh sheet that are not stored
  const wanted = useParams().step;
  const steps = [
    ...(b.planned ? ([["plan", "Plan", true]] as const) : []),
    ["weigh", "Weigh", r.weighed && (typed === 0 || r.state !== "hold")],
    ["fill", "Fill", !!r.fill],
    ["read", "Read", r.acidity.outcome === "pass" || r.acidity.outcome === "pass_with_note"],
    ["decide", "Decide", r.state !== "hold"],
    ["jars", "Jars", r.jars.length > 0 && r.jars.every((x) => !["filled", "untold", "returned"].includes(x.place))],
  ] as const;
  const waiting = steps.findIndex(([k, , ok]) => k !== "jars" && !ok);
  const asked = steps.find(([k]) => k === wanted)?.[0];
  const next = r.state === "called_back" ? "decide" : waiting < 0 ? "decide" : steps[waiting][0];
  const [first] = useState<string>(next); // the step it was opened at, while no address names one
  const step = asked ?? first;
  const navigate = useNavigate();
  const setStep = (s: string) => navigate(`/batches/${b.id}/${s}`);
  const mine = labels.data?.filter((l) => l.formula === b.formula) ?? [];
  return (
    <div className={`flex h-full flex-col px-6 pt-4 max-tablet:h-auto max-tablet:px-3 ${step === "plan" ? "prints" : ""}`}>
      <Head
        title={b.formula_name}
        sub={
          <>
            lot <b className="text-ink">{b.code}</b>, version{" "}
            <Link className="text-cobalt underline" to={`/formulas/${b.formula}/${b.version}`}>
              {b.version}
            </Link>
            , made {day(b.made_on)}
            {r.from_bowl && (
              <>
                , from the bowl of{" "}
                <Link className="text-cobalt underline" to={`/batches/${r.from_bowl.batch}/fill`}>
                  {r.from_bowl.code}
                </Link>
              </>
            )}
          </>
        }
        state={<State of={r.state} />}
      >
        {r.state === "released" && labels.data && mine.length === 0 && <MakeLabel formula={b.formula} regime={b.regime} batch={b.id} />}
        {mine.map((l) => (
          <Link key={l.id} to={`/labels/${l.id}?batch=${b.id}`} className="btn-line inline-flex items-center">
            {l.regime} label
          </Link>
        ))}
        <HistoryButton of="batch" id={String(b.id)} title={b.code} />
        <Link to={`/batches/${b.id}/record`} className="btn-quiet inline-flex items-center">
          The record
        </Link>
      </Head>
      <ol className="mt-2 flex gap-8 border-b max-tablet:gap-4 border-rule-strong text-body" aria-label="Steps of the batch">
        {steps.map(([k, text, ok], i) => (
          <li key={k}>
            <button
              type="button"
              aria-current={step === k ? "step" : undefined}
              onClick={() => setStep(k)}
              className={`flex items-center gap-2 pt-1.5 pb-2 ${step === k ? "font-semibold text-ink shadow-mark" : "text-ink-2"}`}
            >
              <span
                aria-hidden
                className={`flex size-5 items-center justify-center rounded-full border text-note ${ok ? "border-leaf bg-leaf text-white" : "border-rule-strong bg-white text-ink-2"}`}
              >
                {k === "plan" ? "≡" : ok ? "✓" : i + (b.planned ? 0 : 1)}
              </span>
              {text}
              {k !== "plan" && <span className="sr-only">{ok ? "done" : "open"}</span>}
            </button>
          </li>
        ))}
      </ol>
      <div className="flex min-h-0 flex-1 gap-5 pt-3.5 pb-4 max-tablet:flex-col-reverse">
        <div className="min-h-0 min-w-0 flex-1 overflow-y-auto max-tablet:overflow-visible">
          {step === "plan" && <DecidedPlan batch={b.id} />}
          {step === "weigh" && (
            <div className="grid gap-3">
              <ToBench b={b} />
              <SheetBench b={b} write={write} />
              <WeighSheet b={b} write={write} onDone={() => setStep("fill")} />
            </div>
          )}
          {step === "fill" && <FillSection b={b} write={write} onDone={() => setStep("read")} />}
          {step === "read" && <Readings b={b} write={write} onDone={() => setStep("decide")} />}
          {step === "decide" && <Decide b={b} write={write} />}
          {step === "jars" && <JarsSection b={b} write={write} />}
        </div>
        <aside
          aria-label="Is the batch good"
          hidden={step === "plan"}
          className="min-h-0 w-77.5 shrink-0 overflow-y-auto pr-1 max-tablet:w-auto max-tablet:overflow-visible"
        >
          <h2 className="mb-1 flex items-baseline justify-between text-body font-semibold">
            Acidity {!b.estimate.no_water && <small className="text-note font-normal text-ink-2">hatched: estimate; solid: measured</small>}
          </h2>
          {!b.estimate.no_water && (
            <PhAxis
              width={304}
              low={b.estimate.low}
              high={b.estimate.high}
              target={b.ph_target}
              limit={b.ph_limit}
              value={r.acidity.value > 0 && r.acidity.missing.length === 0 ? r.acidity.value : null}
              marks={r.readings.filter((x) => !x.void && !x.unsupported).map((x) => ({ ph: x.ph, label: `${x.jar} jar` }))}
            />
          )}
          {r.acidity.value > 0 && r.acidity.missing.length === 0 && (
            <p className="mt-1 figure leading-none font-semibold tracking-tight">
              {num(r.acidity.value, 2)}
              <small className="ml-2 text-body font-medium tracking-normal text-ink-2">decision value</small>
            </p>
          )}
          <p className="mt-2 text-body">{r.acidity.sentence}</p>
          {b.sooner && (
            <div className="mt-2">
              <Caution level="danger" title="It keeps less long than its jars say:">
                {b.sooner}. An owner decides whether they are called back.
              </Caution>
            </div>
          )}
          {r.state === "released" && r.lines.some((l) => l.barred.length > 0) && (
            <div className="mt-2">
              <Caution level="danger" title="A lot in it may not be used:">
                {r.lines.flatMap((l) => l.barred).join("; ")}. An owner decides whether it is called back.
              </Caution>
            </div>
          )}
          {r.state === "called_back" && step !== "decide" && (
            <div className="mt-2">
              <Caution level="danger" title="Call every jar back.">
                {r.recalled.at(-1)?.why}
              </Caution>
            </div>
          )}
          <h2 className="mt-5 mb-1 text-body font-semibold">Keeps</h2>
          <Keeps b={b} regime={b.regime.toLowerCase()} />
          {Object.keys(b.keeping)
            .filter((law) => law !== b.regime.toLowerCase() && mine.some((l) => l.regime.toLowerCase() === law))
            .map((law) => (
              <Keeps key={law} b={b} regime={law} quiet />
            ))}
          {r.state === "hold" && (
            <>
              <h2 className="mt-5 mb-1 text-body font-semibold">Before a release</h2>
              {r.missing.length === 0 ? (
                <Caution level="good" title="Nothing is missing.">
                  A person decides.
                </Caution>
              ) : (
                <ul className="grid gap-1.5">
                  {r.missing.map((m) => (
                    <li key={m} className="border-l-4 border-mustard pl-2.5 text-note">
                      {m}
                    </li>
                  ))}
                </ul>
              )}
            </>
          )}
          {r.decided && (
            <p className="mt-4 text-note text-ink-2">
              <b className="text-ink">{DECIDED[r.decided.state] ?? r.decided.state}</b> by {r.decided_by}
              {r.decided.way === "first_day"
                ? " on the first reading (early release)"
                : r.decided.way === "equilibrium"
                  ? " on the equilibrium reading"
                  : ""}
              {r.decided.reason ? `: ${r.decided.reason}` : "."}
            </p>
          )}
          {b.rested_entry > 0 && (
            <div className="-ml-2">
              <RestedButton batch={b.id} entry={b.rested_entry} />
            </div>
          )}
          {r.weighed && <CostByLots b={b} write={write} />}
          {b.cautions.length > 0 && (
            <div className="mt-4 grid gap-2">
              {b.cautions.map((c) => (
                <Caution key={c.title} level={c.level} title={c.title}>
                  {c.text}
                </Caution>
              ))}
            </div>
          )}
        </aside>
      </div>
    </div>
  );
}

/** The bench beside the sheet: the same batch on a tablet, with a scale that talks. */
function ToBench({ b }: { b: BatchData }) {
  const open = b.record.loads.filter((l) => !l.closed_by).length;
  if (b.record.state !== "hold" || b.record.fill || b.made_on > today() || (b.record.weighed && !b.record.bench)) return null;
  const vessel = b.planned?.vessel.name;
  return (
    <p className="flex flex-wrap items-center gap-x-4 gap-y-1">
      <Link to={`/bench/${b.id}`} className="btn inline-flex items-center">
        {b.record.bench ? "Back to the bench" : "Weigh at the bench"}
      </Link>
      <span className="text-body text-ink-2">
        {b.record.loads.length === 1 ? "One load" : `${b.record.loads.length} loads`}
        {vessel ? ` in ${vessel}` : ""}
        {b.record.bench && open > 0 && `, ${open} still open`}; fills about {say("jars", { count: b.record.jars_expected })}. Or write it
        down here, all loads together.
      </span>
    </p>
  );
}

/** A released batch without a label: one press sets its words on a label of the usual size. */
function MakeLabel({ formula, regime, batch }: { formula: string; regime: string; batch: number }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { shop } = useFormats();
  const [wrong, setWrong] = useState("");
  const [make, busy] = useAct(async () => {
    try {
      const l = await take(api.POST("/labels", { body: { formula, regime, ...usualLabel(shop.stocks) } }));
      await refreshLabels(client);
      navigate(`/labels/${l.id}?batch=${batch}`);
    } catch (e) {
      setWrong(problemOf(e).title);
    }
  });
  return (
    <>
      {wrong && (
        <span role="alert" className="text-note font-semibold text-beet">
          {wrong}
        </span>
      )}
      <button type="button" className="btn" disabled={busy} onClick={make}>
        Make its label
      </button>
    </>
  );
}

function Keeps({ b, regime, quiet }: { b: BatchData; regime: string; quiet?: boolean }) {
  const { day } = useFormats();
  const v = b.keeping[regime];
  const last = b.last_day[regime];
  const kind = dateWord(v.date_kind ?? "");
  if (b.record.state === "rejected") return quiet ? null : <p className="text-body">No date: the batch is rejected.</p>;
  const passed = b.record.acidity.outcome === "pass" || b.record.acidity.outcome === "pass_with_note" || b.estimate.no_water;
  if (!passed) return quiet ? null : <p className="text-body">No date: a reading that passes comes first.</p>;
  if (quiet)
    return (
      <p className="mt-2 text-note text-ink-2">
        Under {regime.toUpperCase()} rules: {last ? `${kind} ${day(last, true)}.` : v.reason}
      </p>
    );
  return (
    <>
      {last && (
        <p className="font-title text-display leading-tight font-semibold">
          {capital(kind)} {day(last, true)}
        </p>
      )}
      {last && b.record.state === "hold" && <p className="text-body font-semibold text-mustard-ink">if it is released</p>}
      <p className="text-body">{v.reason}</p>
    </>
  );
}
