import { useState } from "react";
import { fieldMessage, type Problem } from "../../api/client";
import { AreaField } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import type { BatchData, Write } from "./Batch";

/** A person decides; the decision says why. */
export function Decide({ b, write }: { b: BatchData; write: Write }) {
  const { moment, num } = useFormats();
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const decide = async (state: string) => {
    const p = await write({ kind: "decision", decision: { state, reason } });
    setProblem(p);
    if (!p) setReason("");
  };
  const history = b.entries.filter((e) => e.decision || e.print).toReversed();
  const r = b.record;
  return (
    <div className="grid gap-4">
      <section className="sheet max-w-[760px] p-5">
        <h2 className="phase text-[16px]">Decide</h2>
        <p className="mt-2 text-[15px]">{r.acidity.sentence}</p>
        {r.state === "hold" && !b.can_release && (
          <div className="mt-3">
            <Caution level="needs_you" title="Not yet.">
              {r.missing.join("; ")}.
            </Caution>
          </div>
        )}
        <div className="mt-4">
          <AreaField
            label={r.acidity.outcome === "pass" && r.state === "hold" ? "Reason or note (needed to hold or reject)" : "Reason"}
            rows={2}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            error={fieldMessage(problem, "decision.reason") || (problem ? problem.title : "")}
          />
        </div>
        <div className="mt-4 flex flex-wrap gap-2">
          {r.state !== "released" && (
            <button type="button" className="btn" disabled={!b.can_release || r.state === "rejected"} onClick={() => decide("released")}>
              Release {r.fill ? `${r.fill.jars} jars` : "the batch"}
            </button>
          )}
          {r.state !== "hold" && (
            <button type="button" className="btn-line" onClick={() => decide("hold")}>
              Put back on hold
            </button>
          )}
          {r.state !== "rejected" && (
            <button type="button" className="btn-beet" onClick={() => decide("rejected")}>
              Reject
            </button>
          )}
        </div>
        <p className="mt-4 text-[12.5px] text-ink-2">
          Gallipot calculates, records and warns. It does not approve a process; your local authority and, where the law asks, a process
          authority do.
        </p>
      </section>
      {history.length > 0 && (
        <section className="sheet max-w-[760px]">
          <table className="ledger w-full">
            <tbody>
              {history.map((e) => (
                <tr key={e.id}>
                  <td className="w-40 pl-5">{moment(e.at)}</td>
                  <td className="w-24">{e.by}</td>
                  <td className="py-2 pr-4">
                    {e.decision ? (
                      <>
                        <b>{e.decision.state === "hold" ? "put on hold" : e.decision.state}</b>
                        {e.decision.value ? ` at ${num(e.decision.value, 2)}` : ""}
                        {e.decision.way === "first_day" ? ", early, on the first day's reading" : ""}
                        {e.decision.reason ? `: ${e.decision.reason}` : ""}
                      </>
                    ) : (
                      `${e.print?.count} ${e.print?.what === "hold" ? "HOLD stickers" : "labels"} printed`
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </div>
  );
}
