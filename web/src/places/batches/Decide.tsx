import { type ReactNode, useState } from "react";
import { fieldMessage, type Problem } from "../../api/client";
import { AreaField } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import { PrintButton, RestedButton } from "./Kept";
import type { BatchData, Write } from "./record";

const SAID: Record<string, string> = { hold: "put on hold", released: "released", rejected: "rejected", called_back: "called back" };

/** A person decides; the decision says why. A decision stays until a new act moves it. */
export function Decide({ b, write }: { b: BatchData; write: Write }) {
  const r = b.record;
  return (
    <div className="grid gap-4">
      {r.state === "called_back" && <CalledBack b={b} />}
      <section className="sheet max-w-190 p-5" aria-label="Decide">
        <h2 className="phase text-lead">{r.state === "called_back" ? "The way out" : "Decide"}</h2>
        <p className="mt-2 text-lead">{r.acidity.sentence}</p>
        {r.ran_out && (
          <div className="mt-3">
            <Caution level="danger" title="On hold again.">
              It was released on the first reading; two days after the equilibrium reading fell due there is none.
            </Caution>
          </div>
        )}
        {r.state === "hold" && !b.can_release && (
          <div className="mt-3">
            <Caution level="needs_you" title="Not yet.">
              {r.missing.map((m) => m.replace(/\.+$/, "")).join("; ")}.
            </Caution>
          </div>
        )}
        <Asked b={b} />
        <Buttons b={b} write={write} />
        <p className="mt-4 text-note text-ink-2">
          Gallipot calculates, records and warns. It does not approve a process; your local authority and, where the law asks, a process
          authority do.
        </p>
      </section>
      <Story b={b} />
    </div>
  );
}

/** What a release asks beyond a pass. */
function Asked({ b }: { b: BatchData }) {
  const { owner, reason } = b.record.asks;
  if (b.record.state === "released" || (owner.length === 0 && reason.length === 0)) return null;
  return (
    <div className="mt-3">
      <Caution level="needs_you" title={owner.length > 0 ? "Only an owner releases this, with a reason:" : "A release gives a reason:"}>
        {[...owner, ...reason].join("; ")}.
      </Caution>
    </div>
  );
}

function Buttons({ b, write }: { b: BatchData; write: Write }) {
  const me = useMe();
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const r = b.record;
  const owner = me.may("owner");
  const act = async (entry: Parameters<Write>[0]) => {
    const p = await write(entry);
    setProblem(p);
    if (!p) setReason("");
  };
  const decide = (state: string) => act({ kind: "decision", decision: { state, reason, seen: r.last } });
  if (!me.may("maker")) return <p className="mt-4 text-ink-2">A helper does not decide; ask a maker or an owner.</p>;
  const latched = r.state === "called_back" || r.state === "rejected";
  if (latched && !owner)
    return (
      <p className="mt-4 text-ink-2">
        {r.state === "rejected"
          ? "Rejected: only an owner opens it again."
          : "Called back: only an owner takes it out of that, with a reason."}
      </p>
    );
  return (
    <>
      <div className="mt-4">
        <AreaField
          label={r.acidity.outcome === "pass" && r.state === "hold" ? "Reason or note (needed to hold or reject)" : "Reason"}
          rows={2}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          error={fieldMessage(problem, "decision.reason", "jars_in.reason") || (problem ? problem.title : "")}
        />
      </div>
      <div className="mt-4 flex flex-wrap gap-2">
        {r.state !== "released" && r.state !== "rejected" && (
          <button type="button" className="btn" disabled={!b.can_release} onClick={() => decide("released")}>
            Release {r.fill ? say("jars", { count: r.fill.jars }) : "the batch"}
            {r.state === "called_back" ? " again" : ""}
          </button>
        )}
        {r.state !== "hold" && (
          <button type="button" className="btn-line" onClick={() => decide("hold")}>
            {r.state === "rejected" ? "Open again, on hold" : "Put back on hold"}
          </button>
        )}
        {r.state === "hold" && r.jars_out && owner && (
          <button type="button" className="btn-line" onClick={() => act({ kind: "jars_in", jars_in: { reason } })}>
            No jar is out
          </button>
        )}
        {r.jars_out && owner && (r.state === "released" || r.state === "hold") && (
          <button type="button" className="btn-beet" onClick={() => decide("called_back")}>
            Call back
          </button>
        )}
        {r.state !== "rejected" && (
          <button type="button" className="btn-beet" onClick={() => decide("rejected")}>
            Reject
          </button>
        )}
      </div>
    </>
  );
}

/** Jars are out that must come back: how many, why, and what to do first. */
function CalledBack({ b }: { b: BatchData }) {
  const { moment } = useFormats();
  const r = b.record;
  const last = r.recalled.at(-1);
  return (
    <section className="max-w-190 border-l-10 border-beet bg-beet-tint p-5" aria-label="Called back">
      <h2 className="font-title text-display leading-tight font-semibold text-beet">Every jar comes back</h2>
      <dl className="mt-3 grid grid-cols-3 gap-4">
        <Count n={r.fill?.jars ?? 0} what="jars made" />
        <Count n={r.labels_printed} what="labels printed" />
        <Count n={r.recalled.length} what={r.recalled.length === 1 ? "call-back" : "call-backs"} />
      </dl>
      {last && (
        <p className="mt-3 text-body">
          {last.why}{" "}
          <span className="text-ink-2">
            ({moment(last.at)}, after an act of {last.by})
          </span>
        </p>
      )}
      <ol className="mt-3 grid list-decimal gap-1 pl-5 text-body">
        <li>Stop selling; no label of this lot is printed.</li>
        <li>
          Take the jars out of the cold room, from shelves and stalls, and tell whoever bought some. A jar that is not acid enough neither
          smells nor looks wrong.
        </li>
        <li>Set them apart, marked; count them against the jars made.</li>
        <li>An owner then rejects the batch, or, once it is measured again and good, releases it with the reason.</li>
      </ol>
    </section>
  );
}

function Count({ n, what }: { n: number; what: string }) {
  return (
    <div>
      <dt className="sr-only">{what}</dt>
      <dd className="text-display leading-none font-semibold tabular-nums">
        {n} <span className="text-body font-medium text-ink-2">{what}</span>
      </dd>
    </div>
  );
}

/** What was decided, called back and printed, the newest first. */
function Story({ b }: { b: BatchData }) {
  const { moment, num } = useFormats();
  const rows: { key: string; at: string; by: string; what: ReactNode; kept?: ReactNode }[] = b.entries
    .filter((e) => e.decision || e.print || e.jars_in || e.recall)
    .map((e) => ({
      key: `e${e.id}`,
      at: e.at,
      by: e.by,
      kept: e.decision ? <RestedButton batch={b.id} entry={e.id} /> : e.print ? <PrintButton batch={b.id} entry={e.id} /> : undefined,
      what: e.decision ? (
        <>
          <b>{SAID[e.decision.state] ?? e.decision.state}</b>
          {e.decision.value ? ` at ${num(e.decision.value, 2)}` : ""}
          {e.decision.way === "first_day" ? ", early, on the first reading" : ""}
          {e.decision.reason ? `: ${e.decision.reason}` : ""}
        </>
      ) : e.jars_in ? (
        `said that no jar is out: ${e.jars_in.reason}`
      ) : e.recall ? (
        e.recall.cause
      ) : (
        `${e.print?.count} ${e.print?.what === "hold" ? "HOLD stickers" : "labels"} printed`
      ),
    }));
  for (const c of b.record.recalled)
    rows.push({
      key: `c${c.entry}`,
      at: c.at,
      by: c.by,
      what: (
        <>
          <b className="text-beet">called back</b>: {c.why}
        </>
      ),
    });
  if (rows.length === 0) return null;
  return (
    <section className="sheet max-w-190">
      <table className="ledger w-full">
        <tbody>
          {rows
            .toSorted((x, y) => y.at.localeCompare(x.at))
            .map((e) => (
              <tr key={e.key}>
                <td className="w-40 pl-5">{moment(e.at)}</td>
                <td className="w-24">{e.by}</td>
                <td className="py-2 pr-4">{e.what}</td>
                <td className="w-40 pr-3 text-right">{e.kept}</td>
              </tr>
            ))}
        </tbody>
      </table>
    </section>
  );
}
