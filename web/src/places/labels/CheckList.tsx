import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Caution } from "../../parts/marks";

type View = Schemas["LabelView"];
type Point = Schemas["LabelPoint"];

const MARK: Record<string, { sign: string; word: string; tone: string }> = {
  pass: { sign: "✓", word: "holds", tone: "text-leaf" },
  fail: { sign: "✕", word: "put right", tone: "text-beet" },
  wait: { sign: "…", word: "to come", tone: "text-ink-2" },
  note: { sign: "i", word: "note", tone: "text-cobalt" },
};

/** What holds is short until it is asked for. */
const SHORT = 7;

/** What each state comes to, in words, what is for the maker first. */
export function counts(points: readonly Point[]): string {
  const n = (state: string) => points.filter((p) => p.state === state).length;
  return [
    [n("decide"), "for you"],
    [n("fail"), "to put right"],
    [n("wait"), "to come"],
    [n("pass"), "hold"],
  ]
    .filter(([k]) => k)
    .map(([k, word]) => `${k} ${word}`)
    .join(", ");
}

/** How long an answer cannot be given after another: the next question comes to stand under the pointer. */
const REST_MS = 600;

function useRest(rev: number): boolean {
  const [seen, setSeen] = useState(rev);
  useEffect(() => {
    const t = setTimeout(() => setSeen(rev), REST_MS);
    return () => clearTimeout(t);
  }, [rev]);
  return seen !== rev;
}

/** The legal points of a label: what is for the maker to decide stands first and is answered here. */
export function CheckList({ v, batch, answer, busy }: { v: View; batch: number; answer: (key: string) => void; busy: boolean }) {
  const [whole, setWhole] = useState(false);
  const resting = useRest(v.rev);
  const yours = v.points.filter((p) => p.state === "decide");
  const rest = v.points.filter((p) => p.state !== "decide");
  const holding = rest.filter((p) => p.state === "pass");
  const hidden = whole ? 0 : Math.max(0, holding.length - SHORT);
  const shown = hidden ? rest.slice(0, rest.length - hidden) : rest;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and must do so by keyboard too
    <aside aria-label="Check list" tabIndex={0} className="min-h-0 overflow-y-auto pr-1">
      <h2 className="mb-2 flex items-baseline justify-between gap-3 font-title text-lead font-semibold">
        Check list
        <small
          className={`font-text text-note font-medium ${yours.length ? "text-mustard-ink" : rest.some((p) => p.state === "fail") ? "text-beet" : "text-leaf"}`}
        >
          {counts(v.points)}
        </small>
      </h2>
      {v.hold && (
        <div className="mb-3">
          <Caution level="danger" title="On hold.">
            Only HOLD stickers are printed until{" "}
            <Link to={`/batches/${batch}`} className="font-semibold text-cobalt underline">
              the batch
            </Link>{" "}
            is released.
          </Caution>
        </div>
      )}
      {yours.map((p) => (
        <section key={p.key} aria-label={p.title} className="mb-2 border-l-4 border-mustard bg-mustard-tint px-3 py-2 text-body">
          <b className="block">{p.title}</b>
          <span className="text-note">{p.why}</span>
          <span className="mt-1 flex flex-wrap gap-x-4">
            {p.answers.map((a) => (
              <button
                key={a.key}
                type="button"
                disabled={busy || resting}
                className="min-h-7 cursor-pointer font-semibold text-cobalt underline decoration-1 underline-offset-2 hover:decoration-2"
                onClick={() => answer(a.key)}
              >
                {a.text}
              </button>
            ))}
          </span>
        </section>
      ))}
      <ul>
        {shown.map((p) => {
          const m = MARK[p.state];
          return (
            <li key={p.key + p.why} className="grid grid-cols-[20px_minmax(0,1fr)_auto] gap-x-1 border-b border-rule py-1.5 text-body">
              <span aria-hidden className={`font-bold ${m.tone}`}>
                {m.sign}
              </span>
              <span>{p.title}</span>
              <span className={`text-note ${m.tone} ${p.state === "pass" ? "sr-only" : ""}`}>{m.word}</span>
              <span className="col-start-2 col-end-4 text-note text-ink-2">
                {p.why}
                {p.answers.map((a) => (
                  <button
                    key={a.key}
                    type="button"
                    disabled={busy || resting}
                    aria-label={`${p.title}: ${a.text}`}
                    className="ml-2 cursor-pointer text-cobalt underline"
                    onClick={() => answer(a.key)}
                  >
                    {a.text}
                  </button>
                ))}
              </span>
            </li>
          );
        })}
      </ul>
      {hidden > 0 && (
        <button type="button" className="btn-quiet mt-1" onClick={() => setWhole(true)}>
          {hidden} more that {hidden === 1 ? "holds" : "hold"}
        </button>
      )}
      <p className="mt-3 text-note text-ink-2">Gallipot drafts and checks. You and your authority decide.</p>
    </aside>
  );
}
