import { useState } from "react";
import { Link } from "react-router";
import { problemOf } from "../../api/client";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { readNumber } from "../../tongue/quantity";
import { say } from "../../tongue/words";
import { placeWord } from "../batches/jarPlaces";
import { type Act, byBatch, type Line } from "./fates";

/** Jars that the book has in the shop: hands count them where they stand. */
export function Here({ lines, act, closed }: { lines: readonly Line[]; act: Act; closed: boolean }) {
  const open = lines.filter((l) => !l.looked).length;
  const { day } = useFormats();
  return (
    <section className="sheet" aria-labelledby="here">
      <h2 id="here" className="phase flex items-baseline justify-between border-b border-rule px-4 py-2.5 text-lead">
        Look here
        <span className="font-text text-note not-italic">{open > 0 ? `${say("places", { count: open })} to count` : "all counted"}</span>
      </h2>
      {lines.length === 0 && <p className="px-4 py-3 text-body text-ink-2">The book has none of these jars in the shop.</p>}
      <ul>
        {byBatch(lines).map((b) => (
          <li key={b.batch} className="border-b border-rule-soft px-4 py-2 last:border-b-0">
            <p className="flex items-baseline gap-2">
              <Link className="font-semibold text-cobalt" to={`/batches/${b.batch}/jars`}>
                {b.code}
              </Link>
              <span className="min-w-0 truncate text-body" title={b.name}>
                {b.name}
              </span>
              {b.ends && <span className="ml-auto text-note whitespace-nowrap text-ink-3">to {day(b.ends)}</span>}
            </p>
            {b.lines.map((l) => (
              <CountRow key={l.place} l={l} act={act} closed={closed} />
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

function CountRow({ l, act, closed }: { l: Line; act: Act; closed: boolean }) {
  const { clock } = useFormats();
  const [again, setAgain] = useState(false);
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState("");
  const [put, busy] = useAct(async (jars: number) => {
    try {
      await act({ kind: "counted", counted: { batch: l.batch, place: l.place, jars } });
      setAgain(false);
      setText("");
      setWrong("");
    } catch (e) {
      const p = problemOf(e);
      setWrong(p.fields[0]?.message ?? p.title);
    }
  });
  const typed = () => {
    const n = readNumber(text);
    if (n === null || !Number.isInteger(n) || n < 0) setWrong("a whole number of jars");
    else void put(n);
  };
  const where = placeWord(l.place);
  const settled = l.looked && !again;
  return (
    <div className="mt-1 grid min-h-9.5 grid-cols-[minmax(0,1fr)_auto] items-center gap-3 text-body">
      <span>
        <b className="inline-block w-8.5 pr-1 text-right text-lead">{l.jars}</b> {where}
      </span>
      {l.written ? (
        <span className="text-note text-ink-3">written down before</span>
      ) : settled || closed ? (
        <span className="flex items-center gap-2">
          {l.looked ? <Found l={l} /> : <span className="text-beet">nobody looked</span>}
          {l.looked && (
            <span className="text-note text-ink-3">
              {l.by} {l.at && clock(l.at)}
            </span>
          )}
          {!closed && (
            <button type="button" className="btn-quiet" aria-label={`Again: ${l.code} ${where}`} onClick={() => setAgain(true)}>
              Again
            </button>
          )}
        </span>
      ) : (
        <span className="flex items-center gap-2">
          <button
            type="button"
            className="btn-line"
            disabled={busy}
            onClick={() => put(l.jars)}
            aria-label={`All ${l.jars} of ${l.code} ${where}`}
          >
            All {l.jars}
          </button>
          <span>or</span>
          <input
            aria-label={`Jars of ${l.code} found ${where}`}
            aria-invalid={!!wrong}
            inputMode="numeric"
            className="field w-16! text-right"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && typed()}
            onBlur={() => text.trim() && typed()}
          />
        </span>
      )}
      {wrong && (
        <p role="alert" className="col-span-2 text-right text-note font-semibold text-beet">
          {wrong}
        </p>
      )}
    </div>
  );
}

/** What was found of jars, and what is missing or too many. */
export function Found({ l }: { l: Line }) {
  return (
    <span>
      <b className="text-lead">{l.found}</b> {l.place === "with" ? "set apart" : "found"}
      {l.sold > 0 && (
        <>
          , <b className="text-lead">{l.sold}</b> sold or used
        </>
      )}
      {l.missing > 0 && <b className="ml-2 text-beet">{l.missing} not found</b>}
      {l.over > 0 && <b className="ml-2 text-mustard-ink">{l.over} too many</b>}
    </span>
  );
}
