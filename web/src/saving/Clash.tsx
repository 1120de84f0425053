import { useState } from "react";
import { Modal } from "../parts/form";
import type { Difference } from "./merge";
import type { Saver } from "./saver";

/** A place where two people wrote, in words. */
export interface Side {
  what: string;
  mine: string;
  theirs: string;
}

/**
 * Somebody else changed the same place meanwhile. Both sides stay on screen; neither is the default: Enter does nothing, and
 * Esc goes back to mine, which stays here and is not stored until one side is chosen.
 */
export function Clash<T, V>({
  saver,
  words,
  instead,
}: {
  saver: Saver<T, V>;
  words: (d: Difference) => Side;
  instead?: { code: string; title: string; button: string; act: () => void };
}) {
  const { status, problem, clashes } = saver.held;
  const [away, setAway] = useState<unknown>(null); // the clash that was closed with Esc
  if (status !== "clash") return null;
  const other = instead && problem?.code === instead.code ? instead : null;
  const title = other?.title ?? "Changed meanwhile";
  return (
    <>
      <p role="alert" className="mt-2 flex items-center gap-3 border-l-4 border-mustard bg-mustard-tint px-3 py-1 text-note">
        <span>
          <b className="text-mustard-ink">{title}.</b> What you typed stands here and is not stored.
        </span>
        <button type="button" className="btn-quiet" onClick={() => setAway(null)}>
          Look at both
        </button>
      </p>
      <Modal open={away !== saver.held.theirs} onClose={() => setAway(saver.held.theirs)} title={title} width={620} calm>
        <p className="mb-3">
          {problem?.title ?? "Somebody else changed it in the same place while you were typing."} Choose which stands; everything else of
          both is kept.
        </p>
        {clashes.length > 0 && (
          <table className="ledger mb-4 w-full">
            <thead>
              <tr>
                <th>Where</th>
                <th>Mine, typed here</th>
                <th>Theirs, stored</th>
              </tr>
            </thead>
            <tbody>
              {clashes.slice(0, 12).map((d) => {
                const s = words(d);
                return (
                  <tr key={d.path}>
                    <td className="pr-3">{s.what}</td>
                    <td className="pr-3 font-semibold">{s.mine}</td>
                    <td className="font-semibold">{s.theirs}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        )}
        <div className="flex flex-wrap justify-end gap-2">
          <button type="button" className="btn-line" onClick={() => saver.settle("theirs")}>
            Take theirs
          </button>
          {other ? (
            <button type="button" className="btn-line" onClick={other.act}>
              {other.button}
            </button>
          ) : (
            <button type="button" className="btn-line" onClick={() => saver.settle("mine")}>
              Keep mine
            </button>
          )}
        </div>
      </Modal>
    </>
  );
}

/** A place and its two values, where nothing better is known of it. */
export function plainSide(d: Difference): Side {
  const what = d.path
    .split(".")
    .map((p) => p.replace(/\[.*\]/, "").replaceAll("_", " "))
    .join(", ");
  return { what, mine: valueWords(d.mine), theirs: valueWords(d.theirs) };
}

export function valueWords(x: unknown): string {
  if (x === undefined || x === null || x === "") return "nothing";
  if (typeof x === "boolean") return x ? "yes" : "no";
  if (Array.isArray(x)) return x.length === 0 ? "nothing" : x.map(valueWords).join(", ");
  if (typeof x === "object") return Object.values(x).map(valueWords).join(", ");
  return String(x);
}
