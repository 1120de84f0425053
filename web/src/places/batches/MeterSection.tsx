import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { refreshMeters } from "../../api/queries/meters";
import { MomentField } from "../../parts/date";
import { TextField } from "../../parts/form";
import { Caution, Segmented } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { localMoment, toISO } from "../../tongue/clock";
import type { MeterCheck } from "./record";

/** Is the meter good today, and was it still at the end? */
export function MeterSection({ checks }: { checks: MeterCheck[] }) {
  const usable = checks.find((c) => c.today && c.accepted && !c.closing_at);
  const closed = checks.find((c) => c.today && c.closing_at);
  const { num, moment } = useFormats();
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const [meter, setMeter] = useState(checks[0]?.meter ?? "Bench meter");
  const [mv4, setMv4] = useState<number | null>(null);
  const [mv7, setMv7] = useState<number | null>(null);
  const [celsius, setCelsius] = useState<number | null>(22);
  const [unit, setUnit] = useState<"mV" | "pH">("mV");
  const [at, setAt] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const [result, setResult] = useState<MeterCheck | null>(null);
  const [closing, setClosing] = useState<number | null>(null);
  const [closingProblem, setClosingProblem] = useState<Problem | null>(null);
  const refresh = async () => {
    await refreshMeters(client);
  };
  const [check, checking] = useAct(async () => {
    try {
      const r = await take(
        api.POST("/meter-checks", {
          body: {
            meter,
            ...(unit === "mV"
              ? { mv_buffer_4: mv4 ?? undefined, mv_buffer_7: mv7 ?? undefined }
              : { ph_buffer_4: mv4 ?? undefined, ph_buffer_7: mv7 ?? undefined }),
            buffer_temperature_c: celsius ?? Number.NaN,
            checked_at: at ? toISO(at) : undefined,
          },
        }),
      );
      setResult(r);
      setProblem(null);
      setOpen(!r.accepted);
      await refresh();
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
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
        <h2 className="phase text-lead">Is the meter good today?</h2>
        {showForm && (
          <Segmented
            label="The meter shows"
            value={unit}
            onChange={setUnit}
            options={
              [
                ["mV", "mV"],
                ["pH", "pH only"],
              ] as const
            }
          />
        )}
        {usable && !open && (
          <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
            Check again
          </button>
        )}
      </div>
      {usable && (
        <p className="mt-1">
          <b className="text-leaf">✓ {usable.meter} is good:</b>{" "}
          {usable.slope_percent != null
            ? `slope ${num(usable.slope_percent, 1)} %, offset ${num(usable.mv_buffer_7 ?? 0, 1)} mV`
            : `buffers read ${num(usable.ph_buffer_4 ?? 0, 2)} and ${num(usable.ph_buffer_7 ?? 0, 2)}`}{" "}
          at {num(usable.buffer_temperature_c, 0)} °C, {usable.checked_by}, {moment(usable.checked_at)}
          {usable.late ? ", entered late" : ""}.
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
          className="mt-3 grid grid-cols-4 items-start gap-3 max-tablet:grid-cols-2"
          onSubmit={(e) => {
            e.preventDefault();
            void check();
          }}
        >
          <TextField label="Meter" value={meter} onChange={(e) => setMeter(e.target.value)} error={fieldMessage(problem, "meter")} />
          <NumberField
            label="Buffer 4.01"
            unit={unit}
            value={mv4}
            onValue={setMv4}
            allowEmpty
            error={fieldMessage(problem, "mv_buffer_4", "ph_buffer_4")}
          />
          <NumberField
            label="Buffer 7.00"
            unit={unit}
            value={mv7}
            onValue={setMv7}
            allowEmpty
            error={fieldMessage(problem, "mv_buffer_7", "ph_buffer_7")}
          />
          <NumberField
            label="Buffers at"
            unit="°C"
            value={celsius}
            onValue={setCelsius}
            reason={[5, 45]}
            error={fieldMessage(problem, "buffer_temperature_c")}
          />
          <MomentField
            label="Checked at (empty: now)"
            value={at}
            max={localMoment()}
            onValue={(day) => setAt(day)}
            error={fieldMessage(problem, "checked_at")}
            hint="entered late, it supports readings entered after it"
          />
          <button type="submit" className="btn mt-5.5" disabled={checking || mv4 === null || mv7 === null || celsius === null}>
            Judge the meter
          </button>
        </form>
      )}
      {problem && problem.fields.length === 0 && <p className="mt-2 font-semibold text-beet">{problem.title}</p>}
      {usable && (
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
          <span className="pb-2 text-note text-ink-2">
            If it is off by more than 0.05, the readings since the last check or look support no release.
          </span>
        </form>
      )}
      {!usable && closed && (
        <p className={`mt-2 text-note ${closed.closing_good ? "text-ink-2" : "font-semibold text-beet"}`}>
          Closing look by {closed.closing_by}: {num(closed.closing_ph ?? 0, 2)},{" "}
          {closed.closing_good ? "good" : "failed: the readings back to the last check or look support no release"}. A new check comes
          before the next reading.
        </p>
      )}
    </section>
  );
}
