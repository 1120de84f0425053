import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshJars } from "../../api/queries/batches";
import { refreshAll } from "../../api/queries/keys";
import { Modal } from "../../parts/form";
import { Select, SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { useAct } from "../../saving/act";
import { readNumber } from "../../tongue/quantity";

type Row = Schemas["JarsRow"];

/** What is ready of each product, what ends first first. */
function products(rows: readonly Row[]): { formula: string; name: string; batches: Row[]; ready: number }[] {
  const out = new Map<string, { formula: string; name: string; batches: Row[]; ready: number }>();
  for (const r of rows) {
    if (r.ready === 0) continue;
    const p = out.get(r.formula) ?? { formula: r.formula, name: r.formula_name, batches: [], ready: 0 };
    p.batches.push(r);
    p.ready += r.ready;
    out.set(r.formula, p);
  }
  return [...out.values()].sort((a, b) => a.name.localeCompare(b.name));
}

/** Jars to one customer or market day: how many of what; which batches they come from is worked out. */
export function SendDialog({
  open,
  rows,
  parties,
  onClose,
}: {
  open: boolean;
  rows: readonly Row[];
  parties: Schemas["Party"][];
  onClose: () => void;
}) {
  const { day } = useFormats();
  const [party, setParty] = useState("");
  const [jars, setJars] = useState<Record<string, string>>({});
  const [batch, setBatch] = useState<Record<string, string>>({});
  const [reason, setReason] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  useEffect(() => {
    if (open) {
      setJars({});
      setBatch({});
      setReason({});
      setProblem(null);
    }
  }, [open]);
  const list = products(rows);
  const wanted = list.filter((p) => (jars[p.formula] ?? "").trim() !== "");
  const bad = wanted.find((p) => !Number.isInteger(readNumber(jars[p.formula]) ?? Number.NaN));
  const [send, busy] = useAct(async () => {
    try {
      const sent = await take(
        api.POST("/dispatches", {
          body: {
            party: Number(party),
            rows: wanted.map((p) => ({
              formula: p.formula,
              jars: readNumber(jars[p.formula]) ?? 0,
              batch: batch[p.formula] ? Number(batch[p.formula]) : undefined,
              reason: reason[p.formula]?.trim() || undefined,
            })),
          },
        }),
      );
      await refreshAll(client);
      onClose();
      toast(
        `${sent.parts.reduce((s, x) => s + x.jars, 0)} jars to ${sent.party.name}: ${sent.parts.map((x) => `${x.jars} of ${x.code}`).join(", ")}.`,
      );
    } catch (e) {
      setProblem(problemOf(e));
      void refreshJars(client);
    }
  });
  const errorOf = (formula: string) => {
    const i = wanted.findIndex((p) => p.formula === formula);
    return i < 0 ? "" : fieldMessage(problem, `rows[${i}]`);
  };
  return (
    <Modal open={open} onClose={onClose} title="Send jars" width={780}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        <SelectField
          label="To"
          autoFocus
          value={party}
          onValue={(chosen) => setParty(chosen)}
          options={[
            ["", "choose a customer or a market day"],
            ...parties.filter((p) => !p.retired).map((p) => [String(p.id), p.day ? `${p.name}, ${day(p.day, true)}` : p.name] as const),
          ]}
          error={fieldMessage(problem, "party")}
        />
        <table className="ledger mt-4 w-full table-fixed">
          <thead>
            <tr>
              <th>product</th>
              <th className="num w-17.5">ready</th>
              <th className="w-24 pl-4">jars</th>
              <th className="w-73 pl-4">from</th>
            </tr>
          </thead>
          <tbody>
            {list.map((p) => (
              <ProductRow
                key={p.formula}
                p={p}
                jars={jars[p.formula] ?? ""}
                batch={batch[p.formula] ?? ""}
                reason={reason[p.formula] ?? ""}
                error={errorOf(p.formula)}
                onJars={(t) => setJars({ ...jars, [p.formula]: t })}
                onBatch={(t) => setBatch({ ...batch, [p.formula]: t })}
                onReason={(t) => setReason({ ...reason, [p.formula]: t })}
              />
            ))}
          </tbody>
        </table>
        {(bad || (problem && problem.fields.length === 0)) && (
          <p role="alert" className="mt-3 text-note font-semibold text-beet">
            {bad ? `“${jars[bad.formula]}” is no whole number of jars` : problem?.title}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn-line" onClick={onClose}>
            Leave them here
          </button>
          <button type="submit" className="btn" disabled={busy || !party || wanted.length === 0 || !!bad}>
            Send them
          </button>
        </div>
      </form>
    </Modal>
  );
}

function ProductRow({
  p,
  jars,
  batch,
  reason,
  error,
  onJars,
  onBatch,
  onReason,
}: {
  p: { formula: string; name: string; batches: Row[]; ready: number };
  jars: string;
  batch: string;
  reason: string;
  error: string;
  onJars: (t: string) => void;
  onBatch: (t: string) => void;
  onReason: (t: string) => void;
}) {
  const { day } = useFormats();
  const later = batch !== "" && p.batches.some((b) => b.last_day < (p.batches.find((x) => String(x.id) === batch)?.last_day ?? ""));
  return (
    <>
      <tr className="focus-within:bg-cobalt-tint">
        <td className="truncate text-body font-medium" title={p.name}>
          {p.name}
        </td>
        <td className="num">{p.ready}</td>
        <td className="pl-4">
          <input
            aria-label={`Jars of ${p.name}`}
            aria-invalid={!!error}
            inputMode="numeric"
            className="field h-8! text-right"
            value={jars}
            onChange={(e) => onJars(e.target.value)}
          />
        </td>
        <td className="pl-4">
          <Select
            aria-label={`From which batch of ${p.name}`}
            className="field h-8!"
            value={batch}
            onValue={onBatch}
            options={[
              ["", `what ends first: ${p.batches[0].code}, ${day(p.batches[0].last_day)}`],
              ...p.batches.map((b) => [String(b.id), `${b.code}, ends ${day(b.last_day)}, ${b.ready} ready`] as const),
            ]}
          />
        </td>
      </tr>
      {later && (
        <tr>
          <td colSpan={4} className="h-auto! py-2">
            <input
              aria-label={`Why this batch of ${p.name}`}
              placeholder="why this one, while another ends first"
              className="field h-8!"
              value={reason}
              onChange={(e) => onReason(e.target.value)}
            />
          </td>
        </tr>
      )}
      {error && (
        <tr>
          <td colSpan={4} role="alert" className="h-auto! bg-beet-tint px-2 py-1 text-note font-semibold text-beet">
            {error}
          </td>
        </tr>
      )}
    </>
  );
}
