import { useMemo, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { problemOf } from "../../api/client";
import { useRecalls } from "../../api/queries/recalls";
import { type TraceOf, useTrace } from "../../api/queries/traces";
import { Failed, Loading, State } from "../../parts/marks";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { useWidth } from "../../parts/width";
import { today } from "../../tongue/clock";
import { say } from "../../tongue/words";
import Records from "../history/Records";
import { outcome } from "../recalls/fates";
import { StartRecall } from "../recalls/StartRecall";
import { draw, line, type Node, needsHand, type Trace as View } from "./paths";

/** What a trace is asked of, by its address: /trace/lot/3, /trace/batch/4 or /trace?code=… */
function useAsked(): TraceOf {
  const { of, id } = useParams();
  const [query] = useSearchParams();
  if (of === "lot") return { lot: Number(id) };
  if (of === "batch") return { batch: Number(id) };
  return { code: query.get("code") ?? "" };
}

/** From a lot to every jar, or from a jar to every lot, as a drawn path with its table. */
export default function Trace() {
  const asked = useAsked();
  const trace = useTrace(asked);
  const { num } = useFormats();
  const me = useMe();
  const [starting, setStarting] = useState(false);
  if (trace.isPending) return <Loading what="the trace" />;
  if (trace.isError && asked.code) return <Records unknown={asked.code} key={asked.code} />;
  if (trace.isError) return <Failed message={problemOf(trace.error).title} again={() => trace.refetch()} />;
  const t = trace.data;
  const file = new URLSearchParams(Object.entries(asked).map(([k, v]) => [k, String(v)])).toString();
  return (
    <div className="prints flex min-h-full flex-col px-6 pt-4.5 pb-6 max-tablet:px-3">
      <header className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 tabIndex={-1} className="font-title text-display font-semibold">
          {t.of === "batch" ? "What is in this jar?" : "Where did this lot go?"}
        </h1>
        <p className="text-body text-ink-2">{t.title}</p>
        <span className="ml-auto flex items-center gap-2 print:hidden">
          <a className="btn-quiet inline-flex items-center" href={`/api/trace.csv?${file}`}>
            As CSV
          </a>
          <button type="button" className="btn-quiet" onClick={() => window.print()}>
            Print
          </button>
          {me.may("maker") && (
            <button type="button" className="btn" onClick={() => setStarting(true)}>
              Start a recall
            </button>
          )}
        </span>
      </header>
      {starting && <StartRecall of={asked} what={t.title} onClose={() => setStarting(false)} />}
      <Paths t={t} />
      <Counts t={t} />
      <p className="mt-3 border-l-4 border-mustard bg-mustard-tint px-3 py-2 text-body">
        <b>Found in {num(t.took_ms / 1000, 2)} s.</b> {t.nodes.filter((n) => n.kind !== "place").length} lots and batches, each by what was
        written down when it was weighed. <LastDrill />
      </p>
      <Tables t={t} />
    </div>
  );
}

/** What the last drill took, so that nobody takes a fast answer for the whole of it. */
function LastDrill() {
  const { day } = useFormats();
  const list = useRecalls().data?.rows ?? [];
  const last = list.filter((r) => r.mock && r.closed_at).sort((a, b) => (b.closed_at ?? "").localeCompare(a.closed_at ?? ""))[0];
  if (!last?.closed_at) return <>Nobody has practised a recall here yet.</>;
  return (
    <>
      The last drill,{" "}
      <Link className="text-cobalt underline" to={`/recalls/${last.id}`}>
        {day(today(new Date(last.closed_at)), true)}
      </Link>
      : {outcome(last)}.
    </>
  );
}

/** The drawing. It is as wide as the page; what does not fit below scrolls with it. */
function Paths({ t }: { t: View }) {
  const [frame, width] = useWidth<HTMLElement>(1030, 48);
  const d = useMemo(() => draw(t, Math.max(640, width), 380), [t, width]);
  return (
    <section ref={frame} aria-label="The path" className="sheet overflow-x-auto px-6 pt-3 pb-4">
      <div className="relative" style={{ width: d.width, height: d.height + 30 }}>
        {d.heads.map((h) => (
          <span key={h.x} className="phase absolute top-0 text-body" style={{ left: h.x }}>
            {h.word}
          </span>
        ))}
        <svg
          aria-hidden="true"
          className="absolute top-7.5 left-0"
          width={d.width}
          height={d.height}
          viewBox={`0 0 ${d.width} ${d.height}`}
        >
          {d.bands.map((b) => (
            <path
              key={b.key}
              d={line(b)}
              fill="none"
              strokeWidth={b.width}
              stroke={b.bad ? "var(--color-beet)" : "var(--color-wash)"}
              strokeOpacity={b.bad ? 0.72 : 0.8}
            />
          ))}
        </svg>
        {d.boxes.map((b) => (
          <NodeBox key={b.node.key} node={b.node} style={{ left: b.x, top: b.y + 30, width: b.w, height: b.h }} />
        ))}
      </div>
    </section>
  );
}

const kilos = (g: number, num: (n: number, p?: number) => string) => (g >= 1000 ? `${num(g / 1000, 1)} kg` : `${num(g)} g`);

/** What stands under a name: where it is from, how much, how many. */
function under(n: Node, num: (n: number, p?: number) => string, day: (d: string) => string): string {
  switch (n.kind) {
    case "place":
      return say("jars", { count: n.jars });
    case "batch":
      return `${n.name}${n.jars ? `, ${say("jars", { count: n.jars })}` : ""}`;
    case "part":
      return `part of a lot${n.frozen ? ", frozen" : ""}, ${kilos(n.received_g, num)}`;
  }
  return [
    n.supplier,
    n.said && `“${n.said}”`,
    day(n.day),
    n.received_g > 0 && `${kilos(n.used_g, num)} of ${kilos(n.received_g, num)} used`,
  ]
    .filter(Boolean)
    .join(", ");
}

/** What stands against something, without repeating what it is. */
const plainly = (bar: string) => bar.replace(/^the (batch|lot) is /, "");

const address = (n: Node) => (n.kind === "batch" ? `/batches/${n.id}` : n.kind === "place" ? "/jars" : `/lots/${n.id}`);

function NodeBox({ node: n, style }: { node: Node; style: React.CSSProperties }) {
  const { num, day } = useFormats();
  const bad = needsHand(n);
  const tone = bad ? "border-beet bg-beet-tint" : n.asked ? "border-cobalt bg-cobalt-tint" : "border-rule-strong bg-white";
  const sub = under(n, num, day);
  const name = n.kind === "batch" ? n.code : n.kind === "place" ? n.name : `${n.code}, ${n.name}`;
  return (
    <Link
      to={address(n)}
      title={`${name}: ${sub}${n.bar ? `; ${n.bar}` : ""}`}
      className={`absolute flex flex-col justify-center overflow-hidden rounded-sm border px-2.5 leading-tight hover:border-cobalt ${tone}`}
      style={style}
    >
      <b className="truncate text-body">{name}</b>
      <span className={`truncate text-note ${bad ? "text-beet" : "text-ink-2"}`}>
        {bad && n.kind !== "place" ? `${plainly(n.bar) || n.state}: ${n.kind === "batch" ? n.name : sub}` : sub}
      </span>
    </Link>
  );
}

/** All jars, each counted in one place. */
function Counts({ t }: { t: View }) {
  const { num } = useFormats();
  const a = t.account;
  const cells: [n: number, words: string, bad: boolean][] = [
    [a.made, t.nodes.filter((n) => n.kind === "batch" && n.asked).length === 1 ? "jars of it" : "jars made of it", false],
    [a.with, a.parties === 1 ? "with one customer" : `with customers, ${a.parties} of them`, false],
    [a.here, "here: bench and cold room", false],
    [a.samples + a.gone, "samples, opened, taken out", false],
    [a.unwritten, "whose place nobody wrote down", a.unwritten > 0],
  ];
  return (
    <section aria-label="The jars" className="sheet mt-3 grid grid-cols-5 max-tablet:grid-cols-2">
      {cells.map(([n, words, bad]) => (
        <p key={words} className="border-l border-rule-soft px-4.5 py-3 first:border-l-0">
          <b className={`block text-display leading-none font-semibold ${bad ? "text-beet" : ""}`}>{num(n)}</b>
          <span className="text-note text-ink-2">{words}</span>
        </p>
      ))}
    </section>
  );
}

/** The head of a table, whose columns from one on are figures. */
function Heads({ words, right }: { words: readonly string[]; right: number }) {
  return (
    <thead>
      <tr>
        {words.map((w, i) => (
          <th
            key={w}
            className={`border-b border-rule-strong py-1 pr-3 text-note font-normal text-ink-2 ${i >= right ? "text-right" : "text-left"}`}
          >
            {w}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** The same as a table, for a reader, for paper, and for what the drawing has no room for. */
function Tables({ t }: { t: View }) {
  const { num, day } = useFormats();
  const lots = t.nodes.filter((n) => n.kind === "incoming" || n.kind === "part");
  const batches = t.nodes.filter((n) => n.kind === "batch");
  const places = t.nodes.filter((n) => n.kind === "place");
  const name = new Map(t.nodes.map((n) => [n.key, n]));
  const cell = "border-b border-rule-soft py-1.5 pr-3 align-top text-body";
  return (
    <div className="mt-5 grid gap-6">
      <section aria-labelledby="t-lots">
        <h2 id="t-lots" className="phase mb-1 text-lead">
          What came in
        </h2>
        <table className="w-full border-collapse">
          <Heads words={["Lot", "What", "Supplier, and their words", "Came", "Accepted by", "Used of it"]} right={5} />
          <tbody>
            {lots.map((n) => (
              <tr key={n.key}>
                <td className={cell}>
                  <Link className="font-semibold text-cobalt underline" to={address(n)}>
                    {n.code}
                  </Link>
                </td>
                <td className={cell}>{n.name}</td>
                <td className={cell}>
                  {n.supplier}
                  {n.said && <> “{n.said}”</>}
                </td>
                <td className={`${cell} whitespace-nowrap`}>{day(n.day)}</td>
                <td className={cell}>{n.by}</td>
                <td className={`${cell} text-right whitespace-nowrap tabular-nums`}>
                  {num(
                    t.flows.filter((f) => f.from === n.key).reduce((s, f) => s + f.grams, 0),
                    1,
                  )}{" "}
                  g
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section aria-labelledby="t-batches">
        <h2 id="t-batches" className="phase mb-1 text-lead">
          What was made
        </h2>
        <table className="w-full border-collapse">
          <Heads words={["Batch", "What", "Made", "By", "State", "Deciding pH", "Keeps until", "Jars"]} right={5} />
          <tbody>
            {batches.map((n) => (
              <tr key={n.key}>
                <td className={cell}>
                  <Link className="font-semibold text-cobalt underline" to={address(n)}>
                    {n.code}
                  </Link>
                </td>
                <td className={cell}>{n.name}</td>
                <td className={`${cell} whitespace-nowrap`}>{day(n.day)}</td>
                <td className={cell}>{n.by}</td>
                <td className={cell}>
                  <State of={n.state || "hold"} />
                  {n.bar && <span className="block text-note text-beet">{n.bar}</span>}
                </td>
                <td className={`${cell} text-right tabular-nums`}>{n.value === null ? "" : num(n.value, 2)}</td>
                <td className={`${cell} text-right whitespace-nowrap`}>{day(n.ends)}</td>
                <td className={`${cell} text-right tabular-nums`}>{num(n.jars)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {places.length > 0 && (
        <section aria-labelledby="t-jars">
          <h2 id="t-jars" className="phase mb-1 text-lead">
            Where the jars are
          </h2>
          <table className="w-full border-collapse">
            <Heads words={["Place", "Of batch", "Jars"]} right={2} />
            <tbody>
              {places.flatMap((p) =>
                t.flows
                  .filter((f) => f.to === p.key)
                  .map((f) => (
                    <tr key={`${f.from} ${f.to}`}>
                      <td className={cell}>{p.name}</td>
                      <td className={cell}>
                        {name.get(f.from)?.code}, {name.get(f.from)?.name}
                      </td>
                      <td className={`${cell} text-right tabular-nums`}>{num(f.jars)}</td>
                    </tr>
                  )),
              )}
            </tbody>
          </table>
        </section>
      )}
    </div>
  );
}
