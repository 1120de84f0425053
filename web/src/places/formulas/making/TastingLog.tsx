import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, type Problem, problemOf, take } from "../../../api/client";
import { useSheet } from "../../../api/queries/formulas";
import { refreshTrials, useTrials } from "../../../api/queries/trials";
import { ChooseIngredient } from "../../../parts/choose";
import { Failed, Loading } from "../../../parts/marks";
import { useFormats } from "../../../parts/shop";
import { toast } from "../../../parts/toast";
import { useAct } from "../../../saving/act";
import { today } from "../../../tongue/clock";
import type { TrialsData } from "../trials";
import type { Version } from "../useDraft";
import { Finish } from "./Finish";
import { GoesIn, Tile } from "./GoesIn";
import { type Logged, soFar, type Thing, type Trial, things, told } from "./making";
import { Tasted } from "./Tasted";

/** A making as it happens: what went in, what was tasted, what was added and why, in the maker's order. */
export default function TastingLog() {
  const { id = "", trial = "new" } = useParams();
  const trials = useTrials(id);
  const sheet = useSheet(id, 0);
  if (trials.isPending || sheet.isPending) return <Loading what="the making" />;
  if (trials.isError || sheet.isError)
    return (
      <Failed message={problemOf(trials.error ?? sheet.error).title} again={() => void Promise.all([trials.refetch(), sheet.refetch()])} />
    );
  const open = trials.data.trials.find((t) => String(t.id) === trial) ?? null;
  if (trial !== "new" && !open) return <Failed message="This making was taken out." again={() => void trials.refetch()} />;
  return <Making data={trials.data} version={sheet.data.version} trial={open} />;
}

function Making({ data, version, trial }: { data: TrialsData; version: Version; trial: Trial | null }) {
  const { num, clock, day } = useFormats();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [chosen, setChosen] = useState<string>("");
  const [finishing, setFinishing] = useState(false);
  const [found, setFound] = useState<Record<string, string>>({}); // names of what was chosen here
  const names = { ...data.names, ...found };
  const log = trial?.log ?? [];
  const over = !!trial && !trial.open;
  const list = things(version.lines, log, names);
  // what was chosen besides stands at the end of the list until it goes in
  const shown: Thing[] =
    found[chosen] && !list.some((t) => t.key === chosen)
      ? [...list, { key: chosen, name: found[chosen], ingredient: chosen, sheet: null }]
      : list;

  const store = async (next: Logged[], end?: { finished: number; score: number; note: string }) => {
    const v = await take(
      api.POST("/formulas/{id}/trials", {
        params: { path: { id: data.formula }, query: { rev: trial?.rev } },
        body: {
          id: trial?.id ?? 0,
          version: trial?.version ?? version.version,
          made_on: trial?.made_on ?? today(),
          by: trial?.by ?? "",
          vessel: trial?.vessel ?? "",
          finished_g: end?.finished ?? trial?.finished_g ?? 0,
          score: end?.score ?? trial?.score ?? 0,
          note: end?.note ?? trial?.note ?? "",
          lines: [],
          log: next,
          open: !end,
        },
      }),
    );
    await refreshTrials(client, v);
    if (!trial) {
      const made = v.trials[v.trials.length - 1];
      const mine = v.trials.filter((t) => t.open).sort((a, b) => b.id - a.id)[0] ?? made;
      if (mine) navigate(`/formulas/${data.formula}/making/${mine.id}`, { replace: true });
    }
    return v;
  };
  const [note, busy] = useAct(async (e: Logged, done: () => void) => {
    try {
      await store([...log, e]);
      setProblem(null);
      done();
    } catch (x) {
      setProblem(problemOf(x));
    }
  });
  const [takeBack, taking] = useAct(async () => {
    try {
      await store(log.slice(0, -1));
      setProblem(null);
    } catch (x) {
      setProblem(problemOf(x));
    }
  });
  const total = log.reduce((s, e) => s + (e.kind === "tasted" ? 0 : e.grams), 0);
  return (
    <div className="flex h-full flex-col px-6 pt-4 pb-4 max-tablet:px-3">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="font-title text-display font-semibold">{data.name}</h1>
        <span className="text-body text-ink-2">
          {over ? `a making of ${day(trial.made_on)}, as it happened` : "a making, as it happens"}
        </span>
        <span className="ml-auto flex gap-2">
          <Link className="btn-quiet inline-flex items-center" to={`/formulas/${data.formula}/${version.version}?part=trials`}>
            {over ? "Back to the trials" : "Leave it open"}
          </Link>
          {!over && (
            <button type="button" className="btn" disabled={total <= 0} onClick={() => setFinishing(true)}>
              It is made
            </button>
          )}
        </span>
      </header>
      <p className="text-note text-ink-2">
        Clean spoons for each taste. Hands off the blades; hot glass and hot oil wait until they are cool enough to hold.
      </p>
      {problem && (
        <p role="alert" className="mt-2 border-l-4 border-beet bg-beet-tint px-3 py-1 text-body text-beet">
          <b>Not stored. {problem.title}</b> {problem.fields.map((f) => f.message).join("; ")} What you typed is still here.
        </p>
      )}
      <div className="mt-3 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(300px,380px)] gap-5 max-tablet:block max-tablet:overflow-y-auto">
        <div className={`flex min-h-0 min-w-0 flex-col gap-3 max-tablet:min-h-fit ${over ? "hidden" : ""}`}>
          <ul
            aria-label="What goes in"
            className="grid min-h-0 grid-cols-[minmax(0,1fr)] content-start gap-1.5 overflow-y-auto pr-1 max-tablet:shrink-0 max-tablet:overflow-visible max-tablet:pr-0"
          >
            {shown.map((t) => (
              <li key={t.key}>
                <Tile thing={t} in_={soFar(log, t.key)} on={t.key === chosen} choose={() => setChosen(t.key === chosen ? "" : t.key)} />
                {t.key === chosen && (
                  <GoesIn
                    key={`${t.key} ${log.length}`}
                    thing={t}
                    busy={busy}
                    problem={problem}
                    formula={data.formula}
                    note={note}
                    found={(g, n) => setFound({ ...found, [g]: n })}
                  />
                )}
              </li>
            ))}
            <li>
              <ChooseIngredient
                label="Something that is not on the sheet"
                className="btn-quiet min-h-14 text-lead"
                onChoose={(g, name) => {
                  setFound({ ...found, [g]: name });
                  setChosen(g);
                }}
              >
                Something else goes in …
              </ChooseIngredient>
            </li>
          </ul>
          <Tasted key={log.length} formula={data.formula} busy={busy} note={note} />
        </div>
        <section aria-label="As it happened" className="sheet flex min-h-0 flex-col max-tablet:mt-4">
          <h2 className="phase flex items-baseline justify-between border-b border-rule px-4 py-2 text-lead">
            As it happened
            <span className="font-text text-lead font-semibold not-italic">{num(total, 1)} g</span>
          </h2>
          <ol className="min-h-0 flex-1 overflow-y-auto px-4 py-2">
            {log.length === 0 && <li className="py-2 text-body text-ink-2">Nothing yet. Touch what goes in first.</li>}
            {log.map((e, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: an entry is its place
              <li key={i} className="grid grid-cols-[52px_1fr] border-b border-rule-soft py-1.5 text-lead">
                <time className="text-note text-ink-3">{e.at ? clock(e.at) : ""}</time>
                <span className={e.kind === "tasted" ? "font-title italic" : e.kind === "added" ? "text-mustard-ink" : ""}>
                  {told(e, names, num)}
                </span>
              </li>
            ))}
          </ol>
          {log.length > 0 && !over && (
            <button type="button" className="btn-quiet m-2 self-start" disabled={taking} onClick={() => takeBack()}>
              Take back the last
            </button>
          )}
        </section>
      </div>
      {finishing && (
        <Finish
          trial={trial}
          onClose={() => setFinishing(false)}
          onEnd={async (end) => {
            await store(log, end);
            toast("The making is a trial now.");
            navigate(`/formulas/${data.formula}/${version.version}?part=trials`);
          }}
        />
      )}
    </div>
  );
}
