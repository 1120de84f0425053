import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api, problemOf, take } from "../../api/client";
import { refreshRecall, useRecall } from "../../api/queries/recalls";
import { Head } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { underKey } from "../../saving/insist";
import { say } from "../../tongue/words";
import { HistoryButton } from "../history/History";
import { CloseDialog } from "./CloseDialog";
import { type Act, elapsed, type Fate, fates, type Recall as View } from "./fates";
import { Here } from "./Here";
import { Who } from "./Who";

/** The search for jars: how many are missing, whom to tell next, and how long it has taken. */
export default function Recall() {
  const id = Number(useParams().id);
  const client = useQueryClient();
  const recall = useRecall(id);
  if (recall.isPending) return <Loading what="the recall" />;
  if (recall.isError) return <Failed message={problemOf(recall.error).title} again={() => recall.refetch()} />;
  const act: Act = async (entry) => {
    const next = await underKey(`recall ${id} ${JSON.stringify(entry)}`, (key) =>
      take(api.POST("/recalls/{id}/entries", { params: { path: { id }, query: { key } }, body: entry })),
    );
    refreshRecall(client, next);
  };
  return <Page v={recall.data} act={act} />;
}

function Page({ v, act }: { v: View; act: Act }) {
  const { kept } = useFormats();
  const [closing, setClosing] = useState(false);
  const here = v.lines.filter((l) => l.place !== "with");
  const finished = v.account.open === 0 && v.parties.every((p) => p.told);
  return (
    <div className="prints px-6 pt-4 pb-6 max-tablet:px-3">
      <Head title={v.title} sub={v.code} state={<Kind v={v} />}>
        <HistoryButton of="recall" id={String(v.id)} title={v.code} />
        {v.letters.length > 0 && (
          <a className="btn-quiet inline-flex items-center" href={`/api/recalls/${v.id}/letters.txt`}>
            All letters
          </a>
        )}
        <button type="button" className="btn-quiet" onClick={() => window.print()}>
          Print
        </button>
        {!v.closed_at && v.may_end && (
          <button type="button" className={!finished ? "btn-line" : v.mock ? "btn" : "btn bg-beet!"} onClick={() => setClosing(true)}>
            {v.mock ? "Close the drill" : "Close the recall"}
          </button>
        )}
      </Head>
      <p className="mt-0.5 mb-3 max-w-225 text-body text-ink-2">
        {v.why}
        {/[.!?]$/.test(v.why) ? " " : ". "}
        <span className="text-ink-3">
          Begun {kept(v.began)} by {v.by}.
        </span>
      </p>
      {v.closed_at && (
        <p className="mb-3 border-l-6 border-leaf bg-leaf-tint px-4 py-2 text-body">
          <b className="text-leaf">
            Closed {kept(v.closed_at)} by {v.closed_by}.
          </b>{" "}
          {v.done}
        </p>
      )}
      <Count v={v} />
      {v.more > 0 && !v.closed_at && <More v={v} act={act} />}
      <div className="mt-4 grid grid-cols-[minmax(0,1fr)_minmax(0,1.12fr)] items-start gap-5 max-desk:grid-cols-1">
        <Here lines={here} act={act} closed={!!v.closed_at} />
        <Who v={v} act={act} />
      </div>
      {closing && <CloseDialog v={v} act={act} onClose={() => setClosing(false)} />}
    </div>
  );
}

/** A drill is hatched, like everything that is not real; a real recall is solid. */
function Kind({ v }: { v: View }) {
  return v.mock ? (
    <span className="hatch inline-flex rounded-sm border-2 border-cobalt p-1">
      <span className="rounded-sm bg-white px-2 text-note font-semibold text-cobalt">drill{v.closed_at ? ", done" : ""}</span>
    </span>
  ) : (
    <span className="rounded-sm bg-beet px-2 py-px text-note font-semibold text-white">
      {v.closed_at ? "recall, closed" : "recall, open"}
    </span>
  );
}

/** The clock, and every jar by what became of it. */
function Count({ v }: { v: View }) {
  const { num } = useFormats();
  const list = fates(v.account);
  const all = Math.max(
    1,
    list.reduce((s, f) => s + f.jars, 0),
  );
  const open = v.account.open;
  return (
    <section className="sheet grid grid-cols-[250px_minmax(0,1fr)] max-tablet:grid-cols-1" aria-label="Every jar">
      <div className="border-r border-rule-soft px-5 py-4">
        <p aria-live="polite">
          <b className={`block figure leading-none font-semibold tracking-tight ${open > 0 && !v.mock ? "text-beet" : ""}`}>
            {num(v.closed_at ? v.account.missing : open)}
          </b>
          <span className="text-body text-ink-2">
            {v.closed_at
              ? `of ${say("jars", { count: v.account.made })} not found`
              : `of ${say("jars", { count: v.account.made })} still to look for`}
          </span>
        </p>
        <Clock v={v} />
      </div>
      <div className="flex flex-col justify-center px-5 py-4">
        <div
          role="img"
          aria-label={list.map((f) => `${f.jars} ${f.word}`).join(", ")}
          className="flex h-11 border border-rule-strong bg-white"
        >
          {list.map((f) => f.jars > 0 && <Part key={f.key} f={f} all={all} />)}
        </div>
        <ul className="mt-3 grid grid-cols-6 gap-x-3 max-tablet:grid-cols-3">
          {list.map((f) => (
            <li key={f.key} className="text-note leading-tight text-ink-2">
              <b
                className={`block text-title leading-tight ${f.key === "missing" && f.jars > 0 ? "text-beet" : f.jars > 0 ? "text-ink" : "text-ink-3"}`}
              >
                {num(f.jars)}
              </b>
              <span aria-hidden className={`mr-1.5 inline-block size-2.5 border border-rule-strong ${f.look}`} />
              {f.word}
            </li>
          ))}
        </ul>
        {v.account.over > 0 && (
          <p className="mt-2 text-note text-mustard-ink">{say("jars", { count: v.account.over })} more than the book has were found.</p>
        )}
      </div>
    </section>
  );
}

function Part({ f, all }: { f: Fate; all: number }) {
  const light = f.key === "open" || f.key === "sold";
  return (
    <span
      title={`${f.jars} ${f.word}`}
      className={`flex items-center justify-center overflow-hidden border-r border-white text-note font-semibold last:border-r-0 ${f.look} ${light ? "text-ink" : "text-white"}`}
      style={{ width: `${(100 * f.jars) / all}%` }}
    >
      {f.jars / all >= 0.06 && <span className={f.key === "open" ? "bg-white px-1" : ""}>{f.jars}</span>}
    </span>
  );
}

/** How long it takes: it runs until everybody has been told, then stays. */
function Clock({ v }: { v: View }) {
  const began = Date.parse(v.began);
  const [drift] = useState(() => Date.parse(v.now) - Date.now()); // the tablet's clock may be wrong
  const [now, setNow] = useState(() => Date.now() + drift);
  const end = v.told_all ?? v.closed_at;
  useEffect(() => {
    if (end) return;
    const tick = setInterval(() => setNow(Date.now() + drift), 1000);
    return () => clearInterval(tick);
  }, [drift, end]);
  return (
    <p className="mt-3 border-t border-rule-soft pt-2">
      <b className="text-title font-semibold tabular-nums">{elapsed((end ? Date.parse(end) : now) - began)}</b>
      <span className="block text-note text-ink-2">
        {v.told_all
          ? "until everybody was told"
          : v.closed_at
            ? "until it was closed"
            : v.parties.length > 0
              ? "since it began; it stops when all are told"
              : "since it began"}
        {v.closed_at && v.told_all && `; closed after ${elapsed(Date.parse(v.closed_at) - began)}`}
      </span>
    </p>
  );
}

function More({ v, act }: { v: View; act: Act }) {
  const [problem, setProblem] = useState("");
  const [take_in, busy] = useAct(async () => {
    try {
      await act({ kind: "widened" });
    } catch (e) {
      setProblem(problemOf(e).title);
    }
  });
  return (
    <p role="alert" className="mt-3 flex flex-wrap items-center gap-3 border-l-6 border-beet bg-beet-tint px-4 py-2 text-body">
      <span>
        <b className="text-beet">{say("jars", { count: v.more })} more turned out to be of it</b> since it began: filled, or made of it.{" "}
        {problem}
      </span>
      <button type="button" className="btn-beet" onClick={take_in} disabled={busy}>
        Take them in
      </button>
    </p>
  );
}
