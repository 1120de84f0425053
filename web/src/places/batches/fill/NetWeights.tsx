import { useState } from "react";
import { fieldMessage, type Problem } from "../../../api/client";
import { TextField } from "../../../parts/form";
import { NumberField } from "../../../parts/number";
import { FromScale } from "../../../parts/scale";
import { useMe } from "../../../parts/session";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
import { useKept } from "../../../saving/kept";
import type { BatchData, Write } from "../record";
import { Spread } from "./Spread";
import { nextEmpty } from "./spread";

interface Typed {
  tare: number | null;
  gross: (number | null)[];
  scale: string;
}

/** So many full jars on the scale: none may be short. */
export function NetWeights({ b, write }: { b: BatchData; write: Write }) {
  const net = b.record.net_weights;
  const [again, setAgain] = useState(false);
  const me = useMe();
  const closed = b.record.state !== "hold";
  if (net && !again)
    return (
      <div>
        <Spread rule={net} nets={net.nets_g} stored />
        <Verdict b={b} />
        {!closed && (
          <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
            <button type="button" className={net.fails.length > 0 ? "btn" : "btn-line"} onClick={() => setAgain(true)}>
              Weigh jars again
            </button>
            {net.fails.length > 0 && (
              <span className="text-note text-ink-2">Top the short ones up, or set them aside, then weigh {b.jars_to_weigh} more.</span>
            )}
          </div>
        )}
        {(b.record.aimed || (me.may("maker") && (net.fails.length > 0 || net.suggest_g > net.aim_g))) && <Aim b={b} write={write} />}
      </div>
    );
  if (closed) return <p className="text-body text-ink-2">No jar of this batch was weighed.</p>;
  return <Weigh b={b} write={write} onDone={() => setAgain(false)} />;
}

function Verdict({ b }: { b: BatchData }) {
  const { num } = useFormats();
  const n = b.record.net_weights;
  if (!n) return null;
  const good = n.fails.length === 0;
  const enough = n.nets_g.length >= b.jars_to_weigh;
  return (
    <div className="mt-1">
      <p role="status" className={`text-lead font-semibold ${!good ? "text-beet" : enough ? "text-leaf" : "text-mustard-ink"}`}>
        {n.sentence}
      </p>
      <p className="mt-1 text-note text-ink-2">
        {n.by}, {n.scale || "typed by hand"}, glass {num(n.tare_g, 1)} g. Average at least what the label says
        {n.t1_g > 0 && `; no more than 2.5 % of jars under ${num(n.t1_g, 1)} g`}
        {n.t2_g > 0 && `; none under ${num(n.t2_g, 1)} g`}: {n.source}.
      </p>
    </div>
  );
}

function Weigh({ b, write, onDone }: { b: BatchData; write: Write; onDone: () => void }) {
  const before = b.record.net_weights;
  const blank: Typed = { tare: before?.tare_g ?? null, gross: Array<number | null>(b.jars_to_weigh).fill(null), scale: "" };
  const [t, set, done] = useKept(`net ${b.id}`, blank, `Full jars of ${b.code}`);
  const [problem, setProblem] = useState<Problem | null>(null);
  const put = (i: number, g: number | null, scale = "") =>
    set((old) => ({ ...old, scale: scale || old.scale, gross: old.gross.map((x, k) => (k === i ? g : x)) }));
  const nets = t.gross.flatMap((g) => (g === null || t.tare === null ? [] : [g - t.tare]));
  const [save, busy] = useAct(async () => {
    const p = await write({
      kind: "net_weights",
      net_weights: { tare_g: t.tare ?? 0, gross_g: t.gross.filter((g) => g !== null), scale: t.scale, over: before?.entry ?? 0 },
    });
    setProblem(p);
    if (p) return;
    done();
    onDone();
  });
  const next = nextEmpty(t.gross);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <Spread rule={b.net_rule} nets={nets} stored={false} />
      <div className="mt-2 flex flex-wrap items-start gap-x-3 gap-y-3">
        <NumberField
          className="w-28"
          label="Empty jar"
          unit="g"
          value={t.tare}
          onValue={(g) => set((old) => ({ ...old, tare: g }))}
          error={fieldMessage(problem, "net_weights.tare_g")}
          hint="with its lid; 0 for net"
        />
        <span aria-hidden className="mt-5.5 h-8.5 w-px bg-rule" />
        {t.gross.map((g, i) => (
          <NumberField
            // biome-ignore lint/suspicious/noArrayIndexKey: a place for a jar is its number
            key={i}
            className="w-28"
            label={`Full jar ${i + 1}`}
            unit="g"
            allowEmpty
            value={g}
            onValue={(n) => put(i, n)}
            error={fieldMessage(problem, `net_weights.gross_g.${i}`)}
          />
        ))}
      </div>
      <FromScale
        what={t.tare === null ? "an empty jar" : next < 0 ? "" : `full jar ${next + 1}`}
        onTake={(g, name) => (t.tare === null ? set((old) => ({ ...old, tare: g, scale: name })) : put(next, g, name))}
      />
      <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <button type="submit" className="btn" disabled={busy || nets.length === 0}>
          Write the weights down
        </button>
        <button type="button" className="btn-quiet" onClick={() => set((old) => ({ ...old, gross: [...old.gross, null] }))}>
          One jar more
        </button>
        {before && (
          <button
            type="button"
            className="btn-quiet"
            onClick={() => {
              done();
              onDone();
            }}
          >
            Keep what was weighed
          </button>
        )}
        <span className="text-note text-ink-2">
          {b.jars_to_weigh} of {b.record.fill?.jars ?? b.jars_planned}: from the first, the middle and the last.
        </span>
      </div>
      {problem && problem.fields.length === 0 && (
        <p role="alert" className="mt-2 font-semibold text-beet">
          {problem.title}
        </p>
      )}
    </form>
  );
}

/** What the next jars are filled to, and why. */
function Aim({ b, write }: { b: BatchData; write: Write }) {
  const { num } = useFormats();
  const n = b.record.net_weights;
  const aimed = b.record.aimed;
  const usual = n && n.fails.length > 0 ? n.fails.join("; ") : "";
  const [f, set, done] = useKept(
    `aim ${b.id}`,
    { grams: (n?.suggest_g ?? null) as number | null, reason: usual },
    `The fill after ${b.code}`,
  );
  const [problem, setProblem] = useState<Problem | null>(null);
  const [save, busy] = useAct(async () => {
    const p = await write({ kind: "aimed", aimed: { grams: f.grams ?? 0, reason: f.reason } });
    setProblem(p);
    if (!p) done();
  });
  if (!n) return null;
  if (aimed)
    return (
      <p className="mt-3 border-t border-rule pt-3 text-body">
        The next jars are filled to <b>{num(aimed.grams, 0)} g</b>, and the next batch is planned with it: {aimed.reason}.
      </p>
    );
  return (
    <form
      className="mt-4 border-t border-rule pt-3"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <p className="mb-2 text-body">
        With jars that scatter like these, <b>{num(n.suggest_g, 0)} g</b> leaves fewer than one in forty short.
      </p>
      <div className="grid grid-cols-[130px_1fr_auto] items-end gap-3 max-tablet:grid-cols-1">
        <NumberField
          label="Fill the next to"
          unit="g"
          value={f.grams}
          onValue={(grams) => set((old) => ({ ...old, grams }))}
          error={fieldMessage(problem, "aimed.grams")}
        />
        <TextField
          label="Because"
          value={f.reason}
          onChange={(e) => set((old) => ({ ...old, reason: e.target.value }))}
          error={fieldMessage(problem, "aimed.reason")}
        />
        <button type="submit" className="btn-line min-h-8.5" disabled={busy}>
          Fill to this from now on
        </button>
      </div>
      {problem && problem.fields.length === 0 && (
        <p role="alert" className="mt-2 font-semibold text-beet">
          {problem.title}
        </p>
      )}
    </form>
  );
}
