import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { Modal, NumberField, readNumber, SelectField, TextField } from "../../parts/form";
import { Caution, Segmented } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import type { BatchData, Write } from "./Batch";
import { localMoment, toISO } from "./time";

type MeterCheck = Schemas["MeterCheckView"];

const PREPARATIONS: Record<string, { name: string; hint: string; fractions: string[] }> = {
  pourable: { name: "pourable, separates", hint: "Shake, let it separate, read the water layer.", fractions: ["water layer"] },
  semi_solid: { name: "semi-solid", hint: "Blend to a paste, at most 20 mL distilled water per 100 g.", fractions: ["paste"] },
  pieces_in_oil: {
    name: "pieces in oil",
    hint: "Pour off the oil, blend the pieces with at most 20 mL distilled water per 100 g.",
    fractions: ["blended pieces"],
  },
  pieces_in_liquid: {
    name: "pieces in liquid",
    hint: "Read the liquid, the pieces, and the blend of both.",
    fractions: ["liquid", "pieces", "blend"],
  },
};

/** Is the meter good, is the batch good. */
export function Readings({ b, write }: { b: BatchData; write: Write }) {
  const checks = useQuery({ queryKey: ["meter-checks"], queryFn: () => take(api.GET("/meter-checks")) });
  const usable = checks.data?.find((c) => c.today && c.accepted && c.closing_good !== false);
  return (
    <div className="grid gap-4">
      <MeterSection checks={checks.data ?? []} usable={usable} />
      {!b.record.fill && (
        <Caution level="needs_you" title="Fill the jars first.">
          A reading is taken from the first and the last jar of the load.
        </Caution>
      )}
      {b.record.fill && <TakeReadings b={b} write={write} check={usable} />}
      <ReadingList b={b} write={write} />
    </div>
  );
}

function MeterSection({ checks, usable }: { checks: MeterCheck[]; usable?: MeterCheck }) {
  const { num, moment } = useFormats();
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const [meter, setMeter] = useState(checks[0]?.meter ?? "Bench meter");
  const [mv4, setMv4] = useState<number | null>(null);
  const [mv7, setMv7] = useState<number | null>(null);
  const [celsius, setCelsius] = useState<number | null>(22);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [result, setResult] = useState<MeterCheck | null>(null);
  const [closing, setClosing] = useState<number | null>(null);
  const [closingProblem, setClosingProblem] = useState<Problem | null>(null);
  const refresh = async () => {
    await client.invalidateQueries({ queryKey: ["meter-checks"] });
    await client.invalidateQueries({ queryKey: ["batch"] });
  };
  const check = async () => {
    try {
      const r = await take(
        api.POST("/meter-checks", {
          body: { meter, mv_buffer_4: mv4 ?? Number.NaN, mv_buffer_7: mv7 ?? Number.NaN, buffer_temperature_c: celsius ?? Number.NaN },
        }),
      );
      setResult(r);
      setProblem(null);
      setOpen(!r.accepted);
      await refresh();
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  const close = async () => {
    if (!usable) return;
    try {
      await take(
        api.POST("/meter-checks/{id}/closing", {
          params: { path: { id: usable.id } },
          body: { closing_ph: closing ?? 0, closing_temperature_c: usable.buffer_temperature_c },
        }),
      );
      setClosingProblem(null);
      await refresh();
    } catch (e) {
      setClosingProblem(problemOf(e));
    }
  };
  const showForm = open || !usable;
  return (
    <section className="sheet p-5" aria-label="Meter check">
      <div className="flex items-baseline justify-between">
        <h2 className="phase text-[16px]">Is the meter good today?</h2>
        {usable && !open && (
          <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
            Check again
          </button>
        )}
      </div>
      {usable && (
        <p className="mt-1">
          <b className="text-leaf">✓ {usable.meter} is good:</b> slope {num(usable.slope_percent, 1)} %, offset {num(usable.mv_buffer_7, 1)}{" "}
          mV at {num(usable.buffer_temperature_c, 0)} °C, {usable.checked_by}, {moment(usable.checked_at)}.
        </p>
      )}
      {result && !result.accepted && (
        <div className="mt-2">
          <Caution level="danger" title="Not accepted.">
            {result.reasons.join("; ")}.
          </Caution>
        </div>
      )}
      {showForm && (
        <form
          className="mt-3 grid grid-cols-[1.4fr_1fr_1fr_1fr_auto] items-start gap-3 max-[760px]:grid-cols-2"
          onSubmit={(e) => {
            e.preventDefault();
            void check();
          }}
        >
          <TextField label="Meter" value={meter} onChange={(e) => setMeter(e.target.value)} error={fieldMessage(problem, "meter")} />
          <NumberField label="Buffer 4.01" unit="mV" value={mv4} onValue={setMv4} allowEmpty error={fieldMessage(problem, "mv_buffer_4")} />
          <NumberField label="Buffer 7.00" unit="mV" value={mv7} onValue={setMv7} allowEmpty error={fieldMessage(problem, "mv_buffer_7")} />
          <NumberField
            label="Buffers at"
            unit="°C"
            value={celsius}
            onValue={setCelsius}
            error={fieldMessage(problem, "buffer_temperature_c")}
          />
          <button type="submit" className="btn mt-[22px]" disabled={mv4 === null || mv7 === null || celsius === null}>
            Judge the meter
          </button>
        </form>
      )}
      {problem && problem.fields.length === 0 && <p className="mt-2 font-semibold text-beet">{problem.title}</p>}
      {usable && usable.closing_ph == null && (
        <form
          className="mt-3 flex flex-wrap items-end gap-3 border-t border-rule pt-3"
          onSubmit={(e) => {
            e.preventDefault();
            void close();
          }}
        >
          <NumberField
            className="w-52"
            label="After the last reading: buffer 4.01 reads"
            unit="pH"
            value={closing}
            onValue={setClosing}
            allowEmpty
            error={fieldMessage(closingProblem, "closing_ph")}
          />
          <button type="submit" className="btn-line" disabled={closing === null}>
            Closing look
          </button>
          <span className="pb-2 text-[12.5px] text-ink-2">If it is off by more than 0.05, the day's readings support no release.</span>
        </form>
      )}
      {usable?.closing_good && (
        <p className="mt-2 text-[13px] text-ink-2">
          Closing look: {num(usable.closing_ph ?? 0, 2)}, good. Check again before more readings.
        </p>
      )}
    </section>
  );
}

const JARS = [
  ["first", 1],
  ["first", 2],
  ["last", 1],
  ["last", 2],
] as const;

/** Four readings at once: two on the first and two on the last jar. */
function TakeReadings({ b, write, check }: { b: BatchData; write: Write; check?: MeterCheck }) {
  const { moment, celsius: degrees } = useFormats();
  const due = new Date(b.equilibrium_due);
  const past = b.record.readings.at(-1);
  const [moment_, setMoment] = useState<"first_day" | "equilibrium">(due.getTime() <= Date.now() ? "equilibrium" : "first_day");
  const [preparation, setPreparation] = useState(past?.preparation ?? "semi_solid");
  const [fraction, setFraction] = useState(past?.fraction ?? PREPARATIONS.semi_solid.fractions[0]);
  const [unit, setUnit] = useState<"pH" | "mV">("pH");
  const [values, setValues] = useState<string[]>(["", "", "", ""]);
  const [errors, setErrors] = useState<string[]>(["", "", "", ""]);
  const [celsius, setCelsius] = useState<number | null>(22);
  const [at, setAt] = useState(localMoment());
  const [problem, setProblem] = useState<Problem | null>(null);
  const retest = b.record.acidity.outcome === "retest";
  const closed = b.record.state === "rejected";
  const fractions = PREPARATIONS[preparation].fractions;
  const save = async () => {
    const numbers = values.map(readNumber);
    const next = values.map((v, i) => (v.trim() && numbers[i] === null ? `“${v}” is not a number` : ""));
    setErrors(next);
    if (next.some(Boolean) || !check) return;
    const left = [...values];
    for (const [i, n] of numbers.entries()) {
      if (n === null) continue;
      const p = await write({
        kind: "reading",
        reading: {
          load: 1,
          jar: JARS[i][0],
          moment: moment_,
          sample: retest ? 2 : 1,
          preparation,
          fraction,
          ...(unit === "pH" ? { ph: n } : { mv: n }),
          sample_temperature_c: celsius ?? 0,
          meter_check: check.id,
          at: toISO(at) || new Date().toISOString(),
        },
      });
      setProblem(p);
      if (p) {
        next[i] = fieldMessage(p, "reading.ph", "reading.mv");
        setErrors([...next]);
        break;
      }
      left[i] = "";
      setValues([...left]);
    }
  };
  const other = problem && !fieldMessage(problem, "reading.ph", "reading.mv", "reading.at", "reading.sample_temperature_c");
  return (
    <section className="sheet p-5" aria-label="Take readings">
      <div className="flex items-baseline justify-between">
        <h2 className="phase text-[16px]">{retest ? "The one retest, same jars" : "First and last jar, twice each"}</h2>
        <Segmented
          label="Unit"
          value={unit}
          onChange={setUnit}
          options={
            [
              ["pH", "pH"],
              ["mV", "mV"],
            ] as const
          }
        />
      </div>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <div className="mt-3 grid grid-cols-3 gap-3 max-[760px]:grid-cols-1">
          <SelectField
            label="When"
            value={moment_}
            options={[
              ["first_day", "first day"],
              ["equilibrium", `equilibrium, from ${moment(b.equilibrium_due)}`],
            ]}
            onChange={(e) => setMoment(e.target.value as typeof moment_)}
          />
          <SelectField
            label="Sample"
            value={preparation}
            options={Object.entries(PREPARATIONS).map(([k, p]) => [k, p.name] as const)}
            onChange={(e) => {
              setPreparation(e.target.value);
              setFraction(PREPARATIONS[e.target.value].fractions[0]);
            }}
          />
          <SelectField
            label="Part read"
            value={fraction}
            options={fractions.map((f) => [f, f] as const)}
            onChange={(e) => setFraction(e.target.value)}
          />
          <TextField
            label="Read at"
            type="datetime-local"
            value={at}
            onChange={(e) => setAt(e.target.value)}
            error={fieldMessage(problem, "reading.at")}
          />
          <NumberField
            label="Sample at"
            unit="°C"
            value={celsius}
            onValue={setCelsius}
            error={fieldMessage(problem, "reading.sample_temperature_c")}
          />
          <p className="self-end pb-1 text-[13px] text-ink-2">
            {PREPARATIONS[preparation].hint} Bring the sample to {degrees(20)} to {degrees(30)}.
          </p>
        </div>
        <div className="mt-3 grid grid-cols-4 gap-3 max-[760px]:grid-cols-2">
          {JARS.map(([jar, n], i) => (
            <TextField
              key={`${jar}${n}`}
              label={`${jar} jar, reading ${n}`}
              unit={unit}
              inputMode="decimal"
              className="[&_input]:h-14 [&_input]:text-right [&_input]:text-[26px] [&_input]:font-semibold"
              value={values[i]}
              error={errors[i]}
              onChange={(e) => setValues(values.map((v, j) => (i === j ? e.target.value : v)))}
            />
          ))}
        </div>
        {other && (
          <p role="alert" className="mt-2 font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 flex items-center gap-3">
          <button type="submit" className="btn" disabled={!check || closed || values.every((v) => !v.trim())}>
            Record the readings
          </button>
          {!check && <span className="text-[13px] text-mustard-ink">Check the meter first.</span>}
        </div>
      </form>
    </section>
  );
}

function ReadingList({ b, write }: { b: BatchData; write: Write }) {
  const { num, moment } = useFormats();
  const [voiding, setVoiding] = useState<number | null>(null);
  const [cause, setCause] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  if (b.record.readings.length === 0) return null;
  return (
    <section className="sheet overflow-x-auto">
      <table className="ledger w-full">
        <thead>
          <tr>
            <th className="pl-5">Jar</th>
            <th>When</th>
            <th>Sample</th>
            <th className="num">pH</th>
            <th className="num">°C</th>
            <th className="pl-5">Who</th>
            <th>Counts</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {b.record.readings.map((r) => (
            <tr key={r.id} className={r.void || r.unsupported ? "text-ink-3" : ""}>
              <td className="pl-5">
                {r.jar}
                {r.sample > 1 ? ", retest" : ""}
              </td>
              <td>{r.moment === "equilibrium" ? "equilibrium" : "first day"}</td>
              <td>{r.fraction}</td>
              <td className={`num text-[16px] font-semibold ${r.void ? "line-through" : ""}`}>{num(r.ph, 2)}</td>
              <td className="num">{num(r.sample_temperature_c, 0)}</td>
              <td className="pl-5">
                {r.by}, {moment(r.at)}
              </td>
              <td className="text-[13px]">{r.void ? `void: ${r.void}` : r.unsupported ? `kept, but ${r.unsupported}` : "yes"}</td>
              <td className="pr-3 text-right">
                {!r.void && b.record.state === "hold" && (
                  <button type="button" className="btn-quiet" onClick={() => setVoiding(r.id)}>
                    Void …
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Modal open={voiding !== null} onClose={() => setVoiding(null)} title="Void a reading" width={420}>
        <form
          onSubmit={async (e) => {
            e.preventDefault();
            const p = await write({ kind: "void", void: { entry: voiding ?? 0, cause } });
            setProblem(p);
            if (!p) {
              setVoiding(null);
              setCause("");
            }
          }}
        >
          <TextField
            label="The cause; no reading is dropped without one"
            autoFocus
            value={cause}
            onChange={(e) => setCause(e.target.value)}
            error={fieldMessage(problem, "void.cause") || (problem?.title ?? "")}
          />
          <div className="mt-4 flex justify-end">
            <button type="submit" className="btn">
              Void it
            </button>
          </div>
        </form>
      </Modal>
    </section>
  );
}
