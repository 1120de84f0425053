import { useState } from "react";
import { fieldMessage, type Problem, type Schemas } from "../../../api/client";
import { TextField } from "../../../parts/form";
import { NumberField } from "../../../parts/number";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
import { useKept } from "../../../saving/kept";
import type { BatchData, Write } from "../record";
import { balanceWith } from "./spread";

/** Where the grams went, and whether the seals hold. */
export function Counted({ b, write, onDone }: { b: BatchData; write: Write; onDone: () => void }) {
  const c = b.record.counted;
  const fill = b.record.fill;
  const closed = b.record.state !== "hold";
  const [f, set, done] = useKept(
    `counted ${b.id}`,
    {
      residue: (c?.residue_g ?? null) as number | null,
      samples: (c?.sample_g ?? b.planned?.samples_g ?? null) as number | null,
      seals: (c?.seals ?? null) as number | null,
      failed: (c?.seals_failed ?? 0) as number | null,
      clean: c?.clean_down ?? false,
      reason: c?.reason ?? "",
    },
    `What was left of ${b.code}`,
  );
  const [problem, setProblem] = useState<Problem | null>(null);
  const [save, busy] = useAct(async () => {
    const p = await write({
      kind: "counted",
      counted: {
        residue_g: f.residue ?? 0,
        sample_g: f.samples ?? 0,
        seals: f.seals ?? 0,
        seals_failed: f.failed ?? 0,
        clean_down: f.clean,
        reason: f.reason.trim() || undefined,
      },
    });
    setProblem(p);
    if (p) return;
    done();
    if (!c) onDone();
  });
  if (!fill) return <p className="text-body text-ink-2">Count the jars first.</p>;
  const balance = b.balance && balanceWith(b.balance, { residue: f.residue ?? 0, samples: f.samples ?? 0 });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      {balance && <BalanceBar balance={balance} jars={fill.jars + (fill.rejected ?? 0)} weighed={!!b.record.net_weights} />}
      <div className="mt-3 grid grid-cols-4 items-end gap-3 max-desk:grid-cols-2">
        <NumberField
          label="Left in the vessel"
          unit="g"
          value={f.residue}
          onValue={(residue) => set((o) => ({ ...o, residue }))}
          disabled={closed}
          error={fieldMessage(problem, "counted.residue_g")}
        />
        <NumberField
          label="Kept as samples"
          unit="g"
          value={f.samples}
          onValue={(samples) => set((o) => ({ ...o, samples }))}
          disabled={closed}
          error={fieldMessage(problem, "counted.sample_g")}
        />
        <NumberField
          label="Seals looked at"
          unit="jars"
          value={f.seals}
          onValue={(seals) => set((o) => ({ ...o, seals }))}
          disabled={closed}
          error={fieldMessage(problem, "counted.seals")}
        />
        <NumberField
          label="Of those not tight"
          unit="set aside"
          value={f.failed}
          onValue={(failed) => set((o) => ({ ...o, failed }))}
          disabled={closed}
          error={fieldMessage(problem, "counted.seals_failed")}
        />
      </div>
      {(balance?.asks_reason || f.reason) && (
        <TextField
          className="mt-3"
          label="Where the rest went"
          value={f.reason}
          disabled={closed}
          onChange={(e) => set((o) => ({ ...o, reason: e.target.value }))}
          error={fieldMessage(problem, "counted.reason")}
          hint="over 3 % are missing: spilt, tasted, another jar"
        />
      )}
      <label className="mt-3 flex min-h-11 items-center gap-3 text-body">
        <input
          type="checkbox"
          className="size-5.5 accent-(--color-cobalt)"
          checked={f.clean}
          disabled={closed}
          onChange={(e) => set((o) => ({ ...o, clean: e.target.checked }))}
        />
        {b.planned?.vessel.name || "The vessel"} was cleaned down after it: nothing of this batch goes into the next product
      </label>
      {problem && (problem.fields.length === 0 || fieldMessage(problem, "counted")) && (
        <p role="alert" className="mt-2 font-semibold text-beet">
          {fieldMessage(problem, "counted") || problem.title}
        </p>
      )}
      <button type="submit" className="btn mt-3" disabled={closed || busy}>
        {c ? "Record again" : "Seals and rest are as said"}
      </button>
    </form>
  );
}

/** A bar of all the grams that went in, by where they are. What nobody explains is hatched. */
function BalanceBar({ balance, jars, weighed }: { balance: Schemas["Balance"]; jars: number; weighed: boolean }) {
  const { num } = useFormats();
  const open = Math.max(0, balance.unexplained_g);
  const whole = Math.max(balance.in_g, balance.jars_g + balance.residue_g + balance.samples_g + balance.spilt_g + balance.elsewhere_g) || 1;
  const parts = [
    { word: `in ${jars} jars${weighed ? "" : ", by the label"}`, g: balance.jars_g, color: "var(--color-cobalt)" },
    { word: "left over", g: balance.residue_g, color: "var(--color-wash)" },
    { word: "samples", g: balance.samples_g, color: "var(--color-acid)" },
    { word: "spilt", g: balance.spilt_g, color: "var(--color-sugar)" },
    ...(balance.elsewhere_g > 0 ? [{ word: "in other jars", g: balance.elsewhere_g, color: "var(--color-leaf)" }] : []),
  ];
  const bad = balance.asks_reason || balance.impossible;
  return (
    <div>
      <p className="mb-1.5 text-body">
        <b>{num(balance.in_g, 1)} g</b> went in.{" "}
        {balance.impossible ? (
          <b className="text-beet">{num(-balance.unexplained_g, 1)} g more came out than that: count and weigh again.</b>
        ) : (
          <span className={bad ? "font-semibold text-beet" : "text-ink-2"}>
            {num(balance.unexplained_g, 1)} g, {num(balance.unexplained_percent, 1)} %, nobody can explain
            {bad ? "." : ": that is usual."}
          </span>
        )}
      </p>
      <div aria-hidden className="flex h-5.5 overflow-hidden rounded-sm border border-rule-strong bg-white">
        {parts.map((p) => p.g > 0 && <span key={p.word} style={{ width: `${(100 * p.g) / whole}%`, background: p.color }} />)}
        {open > 0 && <span className="hatch" style={{ width: `${(100 * open) / whole}%` }} />}
      </div>
      <dl className="mt-1.5 flex flex-wrap gap-x-5 gap-y-1 text-note text-ink-2">
        {parts.map((p) => (
          <div key={p.word} className="inline-flex items-center gap-1.5">
            <span aria-hidden className="size-2.5" style={{ background: p.color }} />
            <dt>{p.word}</dt>
            <dd className="font-semibold text-ink">{num(p.g, 1)} g</dd>
          </div>
        ))}
        <div className="inline-flex items-center gap-1.5">
          <span aria-hidden className="hatch size-2.5" />
          <dt>unexplained</dt>
          <dd className="font-semibold text-ink">{num(balance.unexplained_g, 1)} g</dd>
        </div>
      </dl>
    </div>
  );
}
