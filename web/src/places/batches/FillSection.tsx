import { useState } from "react";
import { Link } from "react-router";
import { fieldMessage, type Problem } from "../../api/client";
import { MomentField } from "../../parts/date";
import { TextField } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { useKept } from "../../saving/kept";
import { localMoment, toISO } from "../../tongue/clock";
import { say } from "../../tongue/words";
import { Counted } from "./fill/Counted";
import { NetWeights } from "./fill/NetWeights";
import { OtherJars } from "./fill/OtherJars";
import { MadeIn } from "./MadeIn";
import type { BatchData, Write } from "./record";

/** Jars filled, and the heat step where the version asks for one. */
export function FillSection({ b, write, onDone }: { b: BatchData; write: Write; onDone: () => void }) {
  const { moment, celsius } = useFormats();
  const fill = b.record.fill;
  const blank = {
    jars: (fill?.jars ?? b.jars_planned) as number | null,
    rejected: (fill?.rejected ?? 0) as number | null,
    at: fill ? localMoment(new Date(fill.at)) : localMoment(),
    reason: "",
  };
  const [f, set, done] = useKept(`fill ${b.id}`, blank, `The filling of ${b.code}`);
  const { jars, rejected, at, reason } = f;
  const [problem, setProblem] = useState<Problem | null>(null);
  const me = useMe();
  const closed = b.record.state !== "hold";
  const [save, busy] = useAct(async () => {
    const p = await write({
      kind: "fill",
      fill: {
        jars: jars ?? 0,
        rejected: rejected ?? 0,
        at: toISO(at) || new Date().toISOString(),
        reason: reason.trim() ? reason : undefined,
      },
    });
    setProblem(p);
    if (!p) done();
  });
  return (
    <section className="sheet p-5">
      {!closed && !fill && (
        <div className="mb-4">
          <Caution level="needs_you" title="Hot glass, hot product:">
            warm jars for hot filling, gloves and face shield; check seals. Keep the waiting jars at or below {celsius(5)}.
          </Caution>
        </div>
      )}
      <h2 className="phase mb-2 text-lead">How many</h2>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <div className="grid grid-cols-3 gap-4 max-desk:grid-cols-2 max-tablet:grid-cols-1">
          <NumberField
            label="Jars filled"
            unit="good ones"
            value={jars}
            onValue={(n) => set({ ...f, jars: n })}
            disabled={closed}
            error={fieldMessage(problem, "fill.jars")}
          />
          <NumberField label="Set aside" unit="jars" value={rejected} onValue={(n) => set({ ...f, rejected: n })} disabled={closed} />
          <MomentField
            label="Last jar closed at"
            value={at}
            max={localMoment()}
            disabled={closed}
            onValue={(day) => set({ ...f, at: day })}
            error={fieldMessage(problem, "fill.at")}
          />
        </div>
        {fill && at !== localMoment(new Date(fill.at)) && me.may("owner") && !closed && (
          <TextField
            className="mt-3"
            label="Where the time was wrong: what happened (the times entered so far are replaced)"
            value={reason}
            onChange={(e) => set({ ...f, reason: e.target.value })}
            error={fieldMessage(problem, "fill.reason")}
            hint="without it the latest of all times counts"
          />
        )}
        {problem && problem.fields.length === 0 && (
          <p role="alert" className="mt-2 font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 flex items-center gap-4">
          <button type="submit" className="btn" disabled={closed || busy}>
            {fill ? "Record again" : "Record the filling"}
          </button>
          {fill && (
            <span className="text-note text-ink-2">
              {say("jars", { count: fill.jars })}, {moment(fill.at)}.{" "}
              {b.estimate.no_water ? "There is nothing to measure." : `The deciding reading is due from ${moment(b.equilibrium_due)}.`}
            </span>
          )}
        </div>
      </form>
      <OtherJars b={b} />
      <h2 className="phase mt-6 mb-1 border-t border-rule pt-4 text-lead">What full jars weigh</h2>
      <NetWeights b={b} write={write} />
      <h2 className="phase mt-6 mb-2 border-t border-rule pt-4 text-lead">What is left, and the seals</h2>
      <Counted b={b} write={write} onDone={b.heat_min_c === 0 ? onDone : () => {}} />
      {b.lot > 0 && fill && b.record.state !== "rejected" && (
        <p className="mt-4 border-t border-rule pt-4 text-body text-ink-2">
          A base for later? Count it in portions above, then{" "}
          <Link className="text-cobalt underline" to={`/lots/${b.lot}`}>
            freeze it as a lot
          </Link>
          : its clock stops on the day, and what is added after thawing is a batch of its own.
        </p>
      )}
      {b.infused && <Straining b={b} write={write} closed={closed} />}
      <MadeIn b={b} />
      {b.heat_min_c > 0 && <HeatStep b={b} write={write} closed={closed} />}
      <LabValue b={b} write={write} closed={closed} />
    </section>
  );
}

/** An infused oil has nothing to measure: who strained it says that it is clear. */
function Straining({ b, write, closed }: { b: BatchData; write: Write; closed: boolean }) {
  const strained = b.record.strained;
  const [note, setNote, done] = useKept(`strained ${b.id}`, strained?.note ?? "", `What was seen of ${b.code}`);
  const [problem, setProblem] = useState<Problem | null>(null);
  const say = async (clear: boolean) => {
    const p = await write({ kind: "strained", strained: { clear, note: note.trim() || undefined } });
    setProblem(p);
    if (!p) done();
  };
  return (
    <form
      className="mt-6 border-t border-rule pt-4"
      onSubmit={(e) => {
        e.preventDefault();
        void say(true);
      }}
    >
      <h2 className="phase mb-1 text-lead">Strained clear</h2>
      <p className="mb-3 text-body text-ink-2">
        There is nothing to measure in this oil. Let it stand, hold it to the light: no piece, no haze, no watery layer at the bottom. The
        spores stay whatever you see: chilled, 4 days, or frozen; never on the counter.
      </p>
      <TextField label="What you saw" value={note} disabled={closed} onChange={(e) => setNote(e.target.value)} />
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <button type="submit" className="btn min-h-12" disabled={closed}>
          I strained it: it is clear
        </button>
        {strained?.clear && (
          <>
            <b className="text-leaf">Clear, by who strained it.</b>
            <button type="button" className="btn-quiet" disabled={closed} onClick={() => void say(false)}>
              It is not
            </button>
          </>
        )}
      </div>
      {problem && (
        <p role="alert" className="mt-2 font-semibold text-beet">
          {fieldMessage(problem, "strained") || problem.title}
        </p>
      )}
    </form>
  );
}

function HeatStep({ b, write, closed }: { b: BatchData; write: Write; closed: boolean }) {
  const { celsius } = useFormats();
  const heat = b.record.heat;
  const [h, set, done] = useKept(
    `heat ${b.id}`,
    { c: heat?.coldest_c ?? (null as number | null), min: heat?.minutes ?? (null as number | null) },
    `The heat step of ${b.code}`,
  );
  const [problem, setProblem] = useState<Problem | null>(null);
  const [save, busy] = useAct(async () => {
    const p = await write({ kind: "heat", heat: { coldest_c: h.c ?? 0, minutes: h.min ?? 0 } });
    setProblem(p);
    if (!p) done();
  });
  return (
    <form
      className="mt-6 border-t border-rule pt-4"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <h2 className="phase mb-2 text-lead">
        Heat step: at least {celsius(b.heat_min_c)} for {b.heat_min_minutes} min on the coldest jar
      </h2>
      <div className="grid grid-cols-3 items-end gap-4 max-tablet:grid-cols-1">
        <NumberField
          label="Coldest jar"
          unit="°C"
          value={h.c}
          onValue={(c) => set({ ...h, c })}
          reason={[0, 130]}
          allowEmpty
          disabled={closed}
          error={fieldMessage(problem, "heat.coldest_c")}
        />
        <NumberField label="held for" unit="min" value={h.min} onValue={(min) => set({ ...h, min })} allowEmpty disabled={closed} />
        <button type="submit" className="btn-line" disabled={closed || busy || h.c === null || h.min === null}>
          Record
        </button>
      </div>
    </form>
  );
}

function LabValue({ b, write, closed }: { b: BatchData; write: Write; closed: boolean }) {
  const lab = b.record.laboratory;
  const [open, setOpen] = useState(!!lab);
  const [l, set, done] = useKept(
    `laboratory ${b.id}`,
    { aw: lab?.water_activity ?? (null as number | null), report: lab?.report ?? "" },
    `The laboratory's value of ${b.code}`,
  );
  const { aw, report } = l;
  const [problem, setProblem] = useState<Problem | null>(null);
  if (!open)
    return (
      <button type="button" className="btn-quiet mt-4" onClick={() => setOpen(true)} disabled={closed}>
        A laboratory measured the water activity
      </button>
    );
  return (
    <form
      className="mt-6 border-t border-rule pt-4"
      onSubmit={async (e) => {
        e.preventDefault();
        const p = await write({ kind: "laboratory", laboratory: { water_activity: aw ?? 0, report } });
        setProblem(p);
        if (!p) done();
      }}
    >
      <div className="grid grid-cols-3 items-end gap-4 max-tablet:grid-cols-1">
        <NumberField
          label="Water activity, laboratory"
          value={aw}
          onValue={(aw) => set({ ...l, aw })}
          disabled={closed}
          error={fieldMessage(problem, "laboratory.water_activity")}
        />
        <TextField
          label="Report"
          value={report}
          onChange={(e) => set({ ...l, report: e.target.value })}
          disabled={closed}
          error={fieldMessage(problem, "laboratory.report")}
        />
        <button type="submit" className="btn-line" disabled={closed}>
          Record
        </button>
      </div>
    </form>
  );
}
