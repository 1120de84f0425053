import { useState } from "react";
import { Link } from "react-router";
import { serverNow } from "../../api/client";
import { Modal } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { sentenceOf } from "../../saving/outbox";
import { readQuantity } from "../../tongue/quantity";
import { Addition } from "./bench/Addition";
import type { BatchData, Write } from "./record";

/** What the sheet asks beyond its rows: over-pours, cooling logs, what is added after the last line. */
export function SheetBench({ b, write }: { b: BatchData; write: Write }) {
  const over = b.record.loads.filter((l) => l.over !== null);
  const logs = b.record.cooling.filter((c) => c.state !== "met");
  const ready = b.record.loads.length > 0 && b.record.loads.every((l) => l.ready && !l.closed_by);
  const [adding, setAdding] = useState(false);
  if (b.record.state !== "hold") return null;
  return (
    <div className="grid gap-3">
      {over.length > 0 && <OverPour b={b} write={write} />}
      {logs.map((c) => (
        <CoolingRow key={c.what} log={c} write={write} />
      ))}
      {ready && !b.record.fill && (
        <p className="flex flex-wrap items-center gap-x-3 text-body text-ink-2">
          {b.record.added.map((a) => (
            <span key={a.entry}>
              <b className="text-ink">{a.name}</b> {a.grams} g added for {a.purpose}
            </span>
          ))}
          <button type="button" className="btn-line" onClick={() => setAdding(true)}>
            Add for taste or texture
          </button>
        </p>
      )}
      {adding && (
        <Modal open onClose={() => setAdding(false)} title="Added after the last line" width={640}>
          <Addition batch={b.id} load={1} rehearsal={false} decide={write} onDone={() => setAdding(false)} />
        </Modal>
      )}
    </div>
  );
}

/** An over-pour on the sheet: what each way out does. */
function OverPour({ b, write }: { b: BatchData; write: Write }) {
  const { num } = useFormats();
  const me = useMe();
  const over = b.record.loads.find((l) => l.over)?.over;
  const [reason, setReason] = useState("");
  const [wrong, setWrong] = useState("");
  const [choose, busy] = useAct(async (how: string) => {
    const p = await write({ kind: "choice", choice: { load: 0, how, ...(reason.trim() ? { reason: reason.trim() } : {}) } });
    setWrong(p ? sentenceOf(p) : "");
  });
  if (!over) return null;
  const names = b.record.lines.filter((l) => over.lines.includes(l.line)).map((l) => l.name);
  return (
    <section className="border-l-5 border-beet bg-beet-tint px-4 py-3" aria-label="Over-pour">
      <p className="text-lead">
        <b className="text-beet">
          {num((over.factor - 1) * 100, 1)} % too much: {names.join(", ")}.
        </b>{" "}
        {over.rebalance_word}
        {over.top_up.length > 0 && ` Topped up: ${over.top_up.map((t) => `${t.name} ${num(t.grams, 1)} g`).join(", ")}.`}
      </p>
      <p className="mt-2 flex flex-wrap items-center gap-2">
        <button type="button" className="btn" disabled={busy || over.portion_g > 0} onClick={() => choose("rebalance")}>
          Put the ratio right
        </button>
        {over.portion_g > 0 && (
          <Link className="btn-line inline-flex items-center" to={`/bench/${b.id}`}>
            Take a part out at the bench first
          </Link>
        )}
        {me.may("maker") && (
          <>
            <input
              aria-label="Why it may stay"
              className="field w-70!"
              placeholder="why it may stay as it is"
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
            <button type="button" className="btn-line" disabled={busy || reason.trim().length < 3} onClick={() => choose("accept")}>
              Leave it as it is
            </button>
          </>
        )}
      </p>
      {wrong && (
        <p role="alert" className="mt-2 font-semibold text-beet">
          {wrong}
        </p>
      )}
    </section>
  );
}

/** A cooling log by hand. */
function CoolingRow({ log, write }: { log: BatchData["record"]["cooling"][number]; write: Write }) {
  const { clock, celsius } = useFormats();
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState("");
  const [put, busy] = useAct(async () => {
    const r = readQuantity(typed, { measure: "temperature" });
    if (r.kind !== "value") {
      setWrong(r.kind === "wrong" || r.kind === "ask" ? r.why : "what does the probe say?");
      return;
    }
    const p = await write({ kind: "cooled", cooled: { what: log.what, celsius: r.value, at: serverNow().toISOString() } });
    setWrong(p ? sentenceOf(p) : "");
    if (!p) setTyped("");
  });
  return (
    <div className="sheet px-4 py-2">
      <Caution level={log.state === "missed" ? "danger" : "note"} title={`Cooling of ${log.name}.`}>
        {log.word} {log.taken.map((t) => `${clock(t.at)} ${celsius(t.celsius)}`).join(", ")}
        {log.state === "missed" && " An owner decides, with a reason."}
      </Caution>
      {log.state !== "missed" && (
        <p className="mt-1 flex items-center gap-2">
          <input
            aria-label={`Temperature of ${log.name}`}
            className="field h-8! w-22.5!"
            inputMode="decimal"
            placeholder="°C now"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && void put()}
          />
          <button type="button" className="btn-quiet" disabled={busy || !typed.trim()} onClick={put}>
            Write it down
          </button>
          {wrong && <span className="text-note font-semibold text-beet">{wrong}</span>}
        </p>
      )}
    </div>
  );
}
