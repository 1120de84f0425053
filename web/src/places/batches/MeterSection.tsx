import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import * as z from "zod/mini";
import { api, take } from "../../api/client";
import { refreshMeters } from "../../api/queries/meters";
import { MomentField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { Refused, TextField } from "../../parts/form";
import { Caution, Segmented } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { needed, words } from "../../parts/schema";
import { useFormats } from "../../parts/shop";
import { localMoment, toISO } from "../../tongue/clock";
import type { MeterCheck } from "./record";

/** Is the meter good today, and was it still at the end? */
export function MeterSection({ checks }: { checks: MeterCheck[] }) {
  const usable = checks.find((c) => c.today && c.accepted && !c.closing_at);
  const closed = checks.find((c) => c.today && c.closing_at);
  const { num, moment } = useFormats();
  const [open, setOpen] = useState(false);
  const [unit, setUnit] = useState<"mV" | "pH">("mV");
  const [result, setResult] = useState<MeterCheck | null>(null);
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
        <CheckForm
          unit={unit}
          meter={checks[0]?.meter ?? "Bench meter"}
          onJudged={(r) => {
            setResult(r);
            setOpen(!r.accepted);
          }}
        />
      )}
      {usable && <ClosingForm check={usable} />}
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

const checkSchema = z.object({
  meter: words,
  four: needed("what does it read?"),
  seven: needed("what does it read?"),
  celsius: needed("how warm are they?"),
  at: words,
});

/** What the meter reads in two buffers. */
function CheckForm({ unit, meter, onJudged }: { unit: "mV" | "pH"; meter: string; onJudged: (r: MeterCheck) => void }) {
  const client = useQueryClient();
  const entry = useEntry({
    schema: checkSchema,
    start: { meter, four: null, seven: null, celsius: 22, at: "" },
    names: {
      four: ["mv_buffer_4", "ph_buffer_4"],
      seven: ["mv_buffer_7", "ph_buffer_7"],
      celsius: ["buffer_temperature_c"],
      at: ["checked_at"],
    },
    send: async ({ meter, four, seven, celsius, at }) => {
      const buffers = unit === "mV" ? { mv_buffer_4: four, mv_buffer_7: seven } : { ph_buffer_4: four, ph_buffer_7: seven };
      const body = { meter, ...buffers, buffer_temperature_c: celsius, checked_at: at ? toISO(at) : undefined };
      onJudged(await take(api.POST("/meter-checks", { body })));
      await refreshMeters(client);
    },
  });
  const { four, seven, celsius } = entry.values;
  return (
    <>
      <form className="mt-3 grid grid-cols-4 items-start gap-3 max-tablet:grid-cols-2" {...entry.form}>
        <TextField label="Meter" {...entry.text("meter")} />
        <NumberField label="Buffer 4.01" unit={unit} allowEmpty {...entry.pick("four")} />
        <NumberField label="Buffer 7.00" unit={unit} allowEmpty {...entry.pick("seven")} />
        <NumberField label="Buffers at" unit="°C" reason={SAMPLE} {...entry.pick("celsius")} />
        <MomentField
          label="Checked at (empty: now)"
          max={localMoment()}
          hint="entered late, it supports readings entered after it"
          {...entry.pick("at")}
        />
        <button type="submit" className="btn mt-5.5" disabled={entry.busy || four === null || seven === null || celsius === null}>
          Judge the meter
        </button>
      </form>
      <Refused entry={entry} className="mt-2" />
    </>
  );
}

/** A buffer or a sample outside of these degrees Celsius is asked about. */
export const SAMPLE = [5, 45] as const;

const closingSchema = z.object({ closing_ph: needed("what does it read?") });

/** Was the meter still good after the last reading? */
function ClosingForm({ check }: { check: MeterCheck }) {
  const client = useQueryClient();
  const entry = useEntry({
    schema: closingSchema,
    start: { closing_ph: null },
    send: async ({ closing_ph }) => {
      await take(
        api.POST("/meter-checks/{id}/closing", {
          params: { path: { id: check.id } },
          body: { closing_ph, closing_temperature_c: check.buffer_temperature_c },
        }),
      );
      await refreshMeters(client);
    },
  });
  return (
    <form className="mt-3 flex flex-wrap items-end gap-3 border-t border-rule pt-3" {...entry.form}>
      <NumberField className="w-52" label="After the last reading: buffer 4.01 reads" unit="pH" allowEmpty {...entry.pick("closing_ph")} />
      <button type="submit" className="btn-line" disabled={entry.busy || entry.values.closing_ph === null}>
        Closing look
      </button>
      <span className="pb-2 text-note text-ink-2">
        If it is off by more than 0.05, the readings since the last check or look support no release.
      </span>
      <Refused entry={entry} className="w-full" />
    </form>
  );
}
