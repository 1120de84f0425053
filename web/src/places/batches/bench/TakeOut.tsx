import { useState } from "react";
import * as z from "zod/mini";
import { accepted } from "../../../api/client";
import { useEntry } from "../../../parts/entry";
import { said } from "../../../parts/schema";
import { readQuantity } from "../../../tongue/quantity";
import type { Desk, LoadState } from "./desk";

const LOST = [
  ["spilled", "spilled"],
  ["dropped", "a piece dropped"],
  ["removed", "taken out"],
] as const;

/** The grams of what was typed; null where it is no amount. */
function grams(typed: string): number | null {
  const r = readQuantity(typed, { measure: "mass" });
  return r.kind === "value" && r.value > 0 ? r.value : null;
}

const schema = z.object({
  what: z.string(),
  typed: z.string().check(z.refine((t) => grams(t) !== null, "how many grams?")),
  reason: said("what happened?"),
});

/** A spill, a dropped piece, a part taken out: it leaves the bowl mixed as it is, and what is to come shrinks with it. */
export function TakeOut({ desk, load }: { desk: Desk; load: LoadState }) {
  const [open, setOpen] = useState(false);
  if (load.bowl_g <= 0) return null;
  if (open) return <TakingOut desk={desk} load={load} onClose={() => setOpen(false)} />;
  return (
    <button type="button" className="bench-small" onClick={() => setOpen(true)}>
      Something got out of the bowl
    </button>
  );
}

function TakingOut({ desk, load, onClose }: { desk: Desk; load: LoadState; onClose: () => void }) {
  const entry = useEntry({
    schema,
    start: { what: "spilled", typed: "", reason: "" },
    send: async ({ what, typed, reason }) => {
      await accepted(
        desk.decide({ kind: "taken_out", taken_out: { load: load.no, what, grams: grams(typed) ?? 0, reason: reason.trim() } }),
      );
      onClose();
    },
  });
  const { what, typed, reason } = entry.values;
  const wrong = entry.error("typed") || entry.error("reason") || entry.rest()?.title;
  return (
    <form className="flex w-full flex-wrap items-center gap-2 rounded-lg border-2 border-rule-strong bg-white p-3" {...entry.form}>
      {LOST.map(([k, text]) => (
        <button
          key={k}
          type="button"
          aria-pressed={what === k}
          onClick={() => entry.set("what", k)}
          className={`min-h-16 rounded-lg border-2 px-3 text-lead ${what === k ? "border-ink bg-ink text-white" : "border-rule-strong bg-white"}`}
        >
          {text}
        </button>
      ))}
      <input
        aria-label="Grams that got out"
        aria-invalid={!!entry.error("typed")}
        inputMode="decimal"
        placeholder="g"
        className="field h-16! w-30! text-title"
        value={typed}
        onChange={(e) => entry.set("typed", e.target.value)}
      />
      <input
        aria-label="What happened"
        placeholder="what happened"
        className="field h-16! w-60! text-lead"
        value={reason}
        onChange={(e) => entry.set("reason", e.target.value)}
      />
      <button type="submit" className="bench-small" disabled={entry.busy || reason.trim().length < 3 || !typed.trim()}>
        Write it down
      </button>
      <button type="button" className="bench-small" onClick={onClose}>
        Nothing
      </button>
      {wrong && (
        <p role="alert" className="w-full text-lead font-semibold text-beet">
          {wrong}
        </p>
      )}
    </form>
  );
}
