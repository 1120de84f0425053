import { useState } from "react";
import { Link } from "react-router";
import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { sheets } from "./jar";

type View = Schemas["LabelView"];

interface Props {
  v: View;
  batch: number;
  count: number;
  setCount: (n: number | null) => void;
  place: number;
  spoil: (n: number) => void;
  confirm: () => void;
  busy: boolean;
  problem: Problem | null;
}

/** What was printed of the batch, what the next run takes, and what changed in the words. */
export function Runs({ v, batch, count, setCount, place, spoil, confirm, busy, problem }: Props) {
  const { day } = useFormats();
  const [thrown, setThrown] = useState<number | null>(null);
  const pieces = v.hold ? 1 : v.pieces.length;
  const per = v.paper.kind === "sheet" ? (v.paper.columns ?? 1) * (v.paper.rows ?? 1) : 1;
  const run = sheets(count, pieces, v.paper.kind === "sheet" ? place : 1, per);
  return (
    <div className="sheet mt-3 grid grid-cols-3 divide-x divide-rule">
      <section className="p-4">
        <h2 className="phase text-lead">This batch</h2>
        {batch ? (
          <>
            <p>
              <b className="text-display font-semibold">{v.jars}</b> jars
            </p>
            <p className="text-note text-ink-2">
              {v.printed} printed, {v.spoilt} spoilt, {Math.max(0, v.jars - v.printed + v.spoilt)} still lack one
            </p>
            {v.printed > v.spoilt && (
              <form
                className="mt-2 flex flex-wrap items-end gap-2"
                onSubmit={(e) => {
                  e.preventDefault();
                  if (thrown) spoil(thrown);
                  setThrown(null);
                }}
              >
                <NumberField
                  className="w-28 shrink-0"
                  label="Spoilt since"
                  allowEmpty
                  value={thrown}
                  onValue={setThrown}
                  error={fieldMessage(problem, "spoilt")}
                />
                <button type="submit" className="btn-quiet" disabled={!thrown}>
                  Count them out
                </button>
              </form>
            )}
          </>
        ) : (
          <p className="text-note text-ink-2">Choose a batch above: the date and the lot come from it.</p>
        )}
      </section>
      <section className="p-4">
        <h2 className="phase text-lead">Paper</h2>
        {!batch ? (
          <p className="text-note text-ink-2">{v.paper.name}</p>
        ) : v.paper.kind === "sheet" ? (
          <>
            <p>
              <b className="text-display font-semibold">{run.sheets}</b> {run.sheets === 1 ? "sheet" : "sheets"}
            </p>
            <p className="text-note text-ink-2">
              starts at place {place} of {per}; {run.blank} stay blank
            </p>
          </>
        ) : (
          <>
            <p>
              <b className="text-display font-semibold">{count * pieces}</b> {v.paper.kind === "roll" ? "off the roll" : "single labels"}
            </p>
            {pieces > 1 && (
              <p className="text-note text-ink-2">
                {count} fronts, then {count} backs
              </p>
            )}
          </>
        )}
        {batch > 0 && (
          <NumberField
            className="mt-2 w-28"
            label="Labels to print"
            value={count}
            onValue={setCount}
            error={fieldMessage(problem, "count")}
          />
        )}
      </section>
      <section className="p-4">
        <h2 className="phase text-lead">Words since last time</h2>
        {v.change.length > 0 ? (
          <>
            <Difference change={v.change} />
            <button type="button" className="btn-line mt-2" disabled={busy} onClick={confirm}>
              Bring the words up to date
            </button>
          </>
        ) : (
          <p className="text-note text-ink-2">
            {v.last
              ? `${v.carry.length > 0 ? "printed last on" : "the same since"} ${day(v.last.at.slice(0, 10))}, for ${v.last.batch}`
              : "nothing printed yet"}
          </p>
        )}
        {v.carry.map((c) => (
          <p key={c.id} className="mt-1 text-note text-ink-2">
            {c.jars} jars of{" "}
            <Link className="text-cobalt underline" to={`/batches/${c.id}`}>
              {c.code}
            </Link>{" "}
            carry other words
          </p>
        ))}
      </section>
    </div>
  );
}

/** Words around a change that are shown, so that it is seen where it stands. */
const AROUND = 3;

/** The difference word by word, without the long runs that stayed. */
function Difference({ change }: { change: View["change"] }) {
  const short = (text: string, first: boolean, last: boolean) => {
    const words = text.split(" ");
    if (words.length <= 2 * AROUND + 1) return text;
    return `${first ? "" : words.slice(0, AROUND).join(" ")} … ${last ? "" : words.slice(-AROUND).join(" ")}`.trim();
  };
  return (
    <p className="text-note leading-loose">
      <span className="sr-only">What changed since the label was confirmed: </span>
      {change.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: pieces have no identity but their place
        <span key={i}>
          {c.kind === "gone" ? (
            <del className="bg-beet-tint text-beet">{c.text}</del>
          ) : c.kind === "new" ? (
            <ins className="bg-leaf-tint font-semibold text-leaf no-underline">{c.text}</ins>
          ) : (
            <span className="text-ink-2">{short(c.text, i === 0, i === change.length - 1)}</span>
          )}{" "}
        </span>
      ))}
    </p>
  );
}
