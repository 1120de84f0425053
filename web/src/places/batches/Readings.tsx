import { useEffect, useRef, useState } from "react";
import * as z from "zod/mini";
import { fieldMessage, ProblemError } from "../../api/client";
import { useDevices, useLive } from "../../api/queries/devices";
import { useMeterChecks } from "../../api/queries/meters";
import { MomentField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { Check, Refused, TextField } from "../../parts/form";
import { Caution, Segmented } from "../../parts/marks";
import { NumberField, whyNot } from "../../parts/number";
import { needed, words } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { useKept } from "../../saving/kept";
import { today, toISO } from "../../tongue/clock";
import { readQuantity, shown } from "../../tongue/quantity";
import { MeterSection, SAMPLE } from "./MeterSection";
import { ReadingList } from "./ReadingList";
import type { BatchData, MeterCheck, Write } from "./record";

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
export function Readings({ b, write, onDone }: { b: BatchData; write: Write; onDone: () => void }) {
  // the reading that makes the batch pass leads on to the decision; an older one does not
  const passed = b.record.acidity.outcome === "pass" || b.record.acidity.outcome === "pass_with_note";
  const before = useRef(passed);
  useEffect(() => {
    if (passed && !before.current) onDone();
    before.current = passed;
  }, [passed, onDone]);
  const checks = useMeterChecks();
  return (
    <div className="grid gap-4">
      <MeterSection checks={checks.data ?? []} />
      {!b.record.fill && (
        <Caution level="needs_you" title="Fill the jars first.">
          A reading is taken from the first and the last jar of the load.
        </Caution>
      )}
      {b.record.fill && <TakeReadings b={b} write={write} checks={checks.data ?? []} />}
      <ReadingList b={b} write={write} />
    </div>
  );
}

const JARS = [
  ["first", 1],
  ["first", 2],
  ["last", 1],
  ["last", 2],
] as const;

/** The check that a reading of a moment rests on: the newest before it on that day, while no closing look came since. */
function checkFor(checks: MeterCheck[], readAt: string): MeterCheck | undefined {
  const at = new Date(readAt);
  const newest = checks
    .filter((c) => new Date(c.checked_at) <= at)
    .toSorted((x, y) => y.checked_at.localeCompare(x.checked_at) || y.id - x.id)[0];
  if (!newest?.accepted || today(new Date(newest.checked_at)) !== today(at)) return undefined;
  return newest.closing_at && new Date(newest.closing_at) <= at ? undefined : newest;
}

/** The meter beside the fields: its reading goes into the next empty one once it is steady. */
function FromMeter({ unit, onTake }: { unit: "pH" | "mV"; onTake: (value: number, celsius: number | null) => void }) {
  const { num, celsius } = useFormats();
  const meter = useDevices().data?.find((d) => d.kind === "meter" && d.counts);
  const r = useLive(meter?.id);
  if (!meter) return null;
  const value = unit === "pH" ? r?.value : r?.mv;
  const ready = !!r?.answers && !r.fault && r.steady && value != null;
  return (
    <p className="mt-3 flex items-center gap-3 text-body text-ink-2">
      <button type="button" className="btn-line" disabled={!ready} onClick={() => value != null && onTake(value, r?.celsius ?? null)}>
        Take it from the meter
      </button>
      <span role="status">
        {meter.name}{" "}
        {r === null
          ? "…"
          : !r.answers
            ? "does not answer; type the readings"
            : r.fault
              ? `says: ${r.fault}`
              : `reads ${num(value ?? 0, unit === "pH" ? 2 : 1)} ${unit}${r.celsius != null ? ` at ${celsius(r.celsius)}` : ""}, ${r.steady ? "steady" : "settling"}`}
      </span>
    </p>
  );
}

/** What a reading of a moment is follows from its time. */
function whatItIs(b: BatchData, readAt: string, moment: (iso: string) => string): string {
  const at = new Date(readAt);
  if (b.record.equilibrium_from && at < new Date(b.record.equilibrium_from))
    return "before the filling or the last addition: counts for nothing";
  return at >= new Date(b.equilibrium_due)
    ? "an equilibrium reading: it decides"
    : `a first reading; equilibrium from ${moment(b.equilibrium_due)}`;
}

const schema = z.object({
  preparation: words,
  fraction: words,
  gone: z.boolean(),
  stand_in: words,
  unit: z.enum(["pH", "mV"]),
  load: words,
  celsius: needed("how warm is the sample?"),
  at: words,
});

/** Four readings at once: two on the first and two on the last jar. */
function TakeReadings({ b, write, checks }: { b: BatchData; write: Write; checks: MeterCheck[] }) {
  const { moment, celsius: degrees } = useFormats();
  const past = b.record.readings.at(-1);
  const ways = b.sample_preparations;
  const way = past && ways.includes(past.preparation) ? past.preparation : ways[0];
  const loads = b.record.loads.length;
  const [values, setValues, done] = useKept<string[]>(`readings ${b.id}`, ["", "", "", ""], `The readings of ${b.code}`);
  const [errors, setErrors] = useState<string[]>(["", "", "", ""]);
  const retest = b.record.acidity.outcome === "retest";
  const closed = b.record.state === "rejected";
  const entry = useEntry({
    schema,
    start: {
      preparation: way,
      fraction: PREPARATIONS[way].fractions[0],
      gone: false,
      stand_in: "",
      unit: "pH",
      load: "1",
      celsius: 22,
      at: "",
    },
    names: {
      preparation: ["reading.preparation"],
      stand_in: ["reading.stand_in"],
      celsius: ["reading.sample_temperature_c"],
      at: ["reading.at"],
    },
    send: async (typed) => {
      const read = values.map((v) => readQuantity(v));
      const next = read.map((r) => whyNot(r, true));
      setErrors(next);
      if (next.some(Boolean)) return;
      const left = [...values];
      for (const [i, r] of read.entries()) {
        if (r.kind !== "value") continue;
        const refused = await write({ kind: "reading", reading: readingOf(typed, i, r.value) });
        const here = fieldMessage(refused, "reading.ph", "reading.mv");
        if (here) return setErrors(next.with(i, here));
        if (refused) throw new ProblemError(refused);
        left[i] = "";
        if (left.every((v) => !v.trim())) done();
        else setValues([...left]);
      }
    },
  });
  const { preparation, gone, unit, load, celsius, at } = entry.values;
  const readAt = toISO(at) || new Date().toISOString();
  const check = checkFor(checks, readAt);
  const readingOf = (t: z.output<typeof schema>, i: number, n: number) => ({
    load: Number(t.load),
    jar: JARS[i][0],
    sample: retest ? 2 : 1,
    preparation: t.preparation,
    fraction: t.fraction,
    ...(t.unit === "pH" ? { ph: n } : { mv: n }),
    sample_temperature_c: t.celsius,
    meter_check: check?.id ?? 0,
    at: readAt,
    stand_in: t.gone && t.stand_in.trim() ? t.stand_in : undefined,
  });
  return (
    <section className="sheet p-5" aria-label="Take readings">
      <div className="flex items-baseline justify-between">
        <h2 className="phase text-lead">{retest ? "The one retest, of both jars" : "First and last jar, twice each"}</h2>
        <Segmented
          label="Unit"
          value={unit}
          onChange={(u) => entry.set("unit", u)}
          options={
            [
              ["pH", "pH"],
              ["mV", "mV"],
            ] as const
          }
        />
      </div>
      <form {...entry.form}>
        <div className="mt-3 grid grid-cols-3 gap-3 max-tablet:grid-cols-1">
          <SelectField
            label="Sample"
            options={ways.map((k) => [k, PREPARATIONS[k].name] as const)}
            {...entry.pick("preparation")}
            onValue={(chosen) => {
              entry.set("preparation", chosen);
              entry.set("fraction", PREPARATIONS[chosen].fractions[0]);
            }}
          />
          <SelectField
            label="Part read"
            options={PREPARATIONS[preparation].fractions.map((f) => [f, f] as const)}
            {...entry.pick("fraction")}
          />
          <MomentField label="Read at (empty: now)" hint={whatItIs(b, readAt, moment)} {...entry.pick("at")} />
          <NumberField label="Sample at" unit="°C" reason={SAMPLE} {...entry.pick("celsius")} />
          <p className="col-span-2 self-end pb-1 text-note text-ink-2 max-tablet:col-span-1">
            {PREPARATIONS[preparation].hint} Bring the sample to {degrees(20)} to {degrees(30)}.
          </p>
        </div>
        {loads > 1 && (
          <p className="mt-3 flex items-center gap-3 text-body">
            Jars of
            <Segmented
              label="Load that the jars are of"
              value={load}
              onChange={(l) => entry.set("load", l)}
              options={b.record.loads.map((l) => [String(l.no), `load ${l.no}`] as const)}
            />
          </p>
        )}
        <FromMeter
          unit={unit}
          onTake={(value, at) => {
            const next = values.findIndex((x) => !x.trim());
            if (next < 0) return;
            setValues(values.map((x, i) => (i === next ? shown(value) : x)));
            if (at !== null) entry.set("celsius", at);
          }}
        />
        <div className="mt-3 grid grid-cols-4 gap-3 max-tablet:grid-cols-2">
          {JARS.map(([jar, n], i) => (
            <TextField
              key={`${jar}${n}`}
              label={`${jar} jar, reading ${n}`}
              unit={unit}
              inputMode="decimal"
              className="[&_input]:h-14 [&_input]:text-right [&_input]:text-display [&_input]:font-semibold"
              value={values[i]}
              error={errors[i]}
              onChange={(e) => setValues(values.map((v, j) => (i === j ? e.target.value : v)))}
            />
          ))}
        </div>
        <div className="mt-3 flex flex-wrap items-end gap-3">
          <Check label="the first or last jar is gone; another of the load stands for it" {...entry.tick("gone")} />
          {gone && <TextField className="min-w-64 flex-1" label="Why, and which jar it is" {...entry.text("stand_in")} />}
        </div>
        <Refused entry={entry} className="mt-2" />
        <div className="mt-4 flex items-center gap-3">
          <button
            type="submit"
            className="btn"
            disabled={(unit === "mV" && !check) || closed || entry.busy || celsius === null || values.every((v) => !v.trim())}
          >
            Record the readings
          </button>
          {!check && (
            <span className="text-note text-mustard-ink">
              No passed meter check comes before it on that day: it is kept, supports no release, and stops one if it is high.
            </span>
          )}
        </div>
      </form>
    </section>
  );
}
