import { useState } from "react";
import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { Modal, TextField } from "../../parts/form";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import type { BatchData, Write } from "./record";

type Reading = Schemas["Reading"];

const MOMENTS: Record<string, string> = { equilibrium: "equilibrium", first_day: "first reading", "": "before filling" };

/** The readings pair by pair: a pair counts, is struck and is repeated together. */
export function ReadingList({ b, write }: { b: BatchData; write: Write }) {
  const { num, moment } = useFormats();
  const me = useMe();
  const [striking, setStriking] = useState<Reading[] | null>(null);
  const pairs = new Map<number, Reading[]>();
  for (const r of b.record.readings) pairs.set(r.pair ?? 0, [...(pairs.get(r.pair ?? 0) ?? []), r]);
  if (pairs.size === 0) return null;
  return (
    <section className="sheet overflow-x-auto">
      <table className="ledger w-full" aria-label="Readings">
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
          {[...pairs.values()].map((pair) => {
            const r = pair[0];
            const off = pair.find((x) => x.void || x.unsupported);
            return (
              <tr key={r.id} className={off ? "text-ink-3" : ""}>
                <td className="pl-5">
                  {r.jar} jar
                  {r.retest ? ", retest" : ""}
                  {r.stand_in && <small className="block text-note text-ink-3">stand-in: {r.stand_in}</small>}
                </td>
                <td>{MOMENTS[r.moment] ?? r.moment}</td>
                <td>{r.fraction}</td>
                <td className={`num text-lead font-semibold whitespace-nowrap ${r.void ? "line-through" : ""}`}>
                  {pair.map((x) => num(x.ph, 2)).join("\u2002")}
                </td>
                <td className="num">{num(r.sample_temperature_c, 0)}</td>
                <td className="pl-5 whitespace-nowrap">
                  {r.by}, {moment(r.at)}
                  {pair.some((x) => b.record.late.includes(x.id)) && <b className="ml-1 text-note text-mustard-ink">entered late</b>}
                </td>
                <td className="py-1 text-note">{counts(pair)}</td>
                <td className="pr-3 text-right">
                  {!r.void && me.may("maker") && (
                    <button type="button" className="btn-quiet" onClick={() => setStriking(pair)}>
                      Strike …
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <StrikeDialog key={striking?.[0].id ?? 0} pair={striking} write={write} onClose={() => setStriking(null)} />
    </section>
  );
}

function counts(pair: Reading[]): string {
  const off = pair.find((x) => x.void) ?? pair.find((x) => x.unsupported);
  if (off?.struck) return `struck: ${off.void}`;
  if (off?.void) return off.void;
  if (off?.unsupported) return `kept, but ${off.unsupported}`;
  if (!pair[0].moment) return "for nothing";
  return pair.length < 2 ? "once it is a pair" : "yes";
}

function StrikeDialog({ pair, write, onClose }: { pair: Reading[] | null; write: Write; onClose: () => void }) {
  const { num } = useFormats();
  const [cause, setCause] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <Modal open={!!pair} onClose={onClose} title="Strike a pair of readings" width={440}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          const p = await write({ kind: "void", void: { entry: pair?.[0].id ?? 0, cause } });
          setProblem(p);
          if (!p) onClose();
        }}
      >
        <p className="mb-3 text-body text-ink-2">
          {pair?.map((x) => num(x.ph, 2)).join(" and ")} stay on record. A pair near or over the limit is struck by an owner only, and a
          struck pair asks for a reason at release.
        </p>
        <TextField
          label="What happened, in at least 10 letters"
          autoFocus
          value={cause}
          onChange={(e) => setCause(e.target.value)}
          error={fieldMessage(problem, "void.cause") || (problem?.title ?? "")}
        />
        <div className="mt-4 flex justify-end">
          <button type="submit" className="btn-beet">
            Strike it
          </button>
        </div>
      </form>
    </Modal>
  );
}
