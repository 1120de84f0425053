import { useState } from "react";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
import { sentenceOf } from "../../../saving/outbox";
import { Addition } from "./Addition";
import { CoolingLog } from "./CoolStage";
import type { Desk, LoadState } from "./desk";
import { ErrandList } from "./Errands";
import { TakeOut } from "./TakeOut";

/** All lines are in: steps, taste and texture, and the load is closed. */
export function FinishStage({ desk, load, onClosed }: { desk: Desk; load: LoadState; onClosed: () => void }) {
  const { num } = useFormats();
  const [adding, setAdding] = useState(false);
  const [wrong, setWrong] = useState("");
  const rest = load.errands.filter((e) => !e.first);
  const waits = desk.waiting.some((w) => !w.refused);
  const [close, busy] = useAct(async () => {
    const p = await desk.decide({ kind: "closed", closed: { load: load.no } });
    setWrong(p ? sentenceOf(p) : "");
    if (!p) onClosed();
  });
  return (
    <div>
      <h1 className="font-title figure leading-none font-semibold max-tablet:text-display">
        Everything is in: <span className="whitespace-nowrap">{num(load.bowl_g, 1)} g</span>
      </h1>
      {rest.length > 0 && !adding && (
        <div className="mt-4">
          <ErrandList desk={desk} load={load} list={rest} />
        </div>
      )}
      {desk.cooling.length > 0 && (
        <div className="mt-4 grid gap-3">
          {desk.cooling.map((c) => (
            <CoolingLog key={c.what} desk={desk} log={c} />
          ))}
        </div>
      )}
      {load.added.length > 0 && (
        <ul className="mt-4 text-title" aria-label="Added">
          {load.added.map((a, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: what was added stays in its order
            <li key={i}>
              <b className="font-semibold">{a.name || "leftover"}</b> {num(a.grams, 1)} g, for {a.purpose}{" "}
              <span className="text-ink-2">✓ {a.by}</span>
            </li>
          ))}
        </ul>
      )}
      {adding ? (
        <Addition batch={desk.batch} load={load.no} rehearsal={desk.rehearsal} decide={desk.decide} onDone={() => setAdding(false)} />
      ) : (
        <p className="mt-4 flex flex-wrap gap-2">
          <button type="button" className="bench-small" onClick={() => setAdding(true)}>
            Add for taste or texture
          </button>
          <TakeOut desk={desk} load={load} />
        </p>
      )}
      {wrong && (
        <p role="alert" className="mt-3 border-l-4 border-beet bg-beet-tint px-3 py-2 text-title font-semibold text-beet">
          {wrong}
        </p>
      )}
      {!adding && (
        <button
          type="button"
          className="mt-5 min-h-18 rounded-lg bg-cobalt px-8 text-display font-semibold text-white disabled:opacity-50"
          disabled={busy || waits}
          onClick={close}
        >
          Close load {load.no}
        </button>
      )}
      {!adding && load.missing.length > 0 && (
        <p className="mt-2 text-lead text-ink-2">
          Still open: {load.missing.slice(0, 3).join("; ")}
          {load.missing.length > 3 && `; ${load.missing.length - 3} more`}
        </p>
      )}
    </div>
  );
}
