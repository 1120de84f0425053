import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, fieldMessage, type Problem, problemOf, take } from "../../../api/client";
import { useSheet } from "../../../api/queries/formulas";
import { refreshTrials, useTrials } from "../../../api/queries/trials";
import { ChooseIngredient } from "../../../parts/choose";
import { AreaField, Modal } from "../../../parts/form";
import { Failed, Loading } from "../../../parts/marks";
import { NumberField } from "../../../parts/number";
import { FromScale } from "../../../parts/scale";
import { useFormats } from "../../../parts/shop";
import { toast } from "../../../parts/toast";
import { useAct } from "../../../saving/act";
import { useKept } from "../../../saving/kept";
import { today } from "../../../tongue/clock";
import type { TrialsData } from "../trials";
import type { Version } from "../useDraft";
import { keyOf, type Logged, REASONS, soFar, TASTES, type Thing, type Trial, things, told } from "./making";

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

const big = "min-h-14 rounded-md px-4 text-lead font-semibold disabled:opacity-45";

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
  // what was chosen besides stands behind the list until it went in
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
                  <Entry
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

/** A thing that goes in, with what the sheet says and what is in already. */
function Tile({ thing: t, in_, on, choose }: { thing: Thing; in_: number; on: boolean; choose: () => void }) {
  const { num } = useFormats();
  return (
    <button
      type="button"
      aria-expanded={on}
      className={`flex min-h-14 w-full items-center gap-3 rounded-md border-2 px-4 text-left text-lead ${on ? "border-cobalt bg-cobalt-tint" : "border-rule-strong bg-white hover:border-cobalt"}`}
      onClick={choose}
    >
      <span className="min-w-0 flex-1 truncate">{t.name}</span>
      {t.sheet != null && <span className="text-note text-ink-3">sheet {num(t.sheet, 1)}</span>}
      <b className={`w-23 text-right ${in_ > 0 ? "" : "font-normal text-ink-3"}`}>{in_ > 0 ? `${num(in_, 1)} g` : "not yet"}</b>
    </button>
  );
}

type Note = (e: Logged, done: () => void) => Promise<void>;

/** How much of it went in, or was added and why. */
function Entry({
  thing,
  busy,
  problem,
  formula,
  note,
  found,
}: {
  thing: Thing;
  busy: boolean;
  problem: Problem | null;
  formula: string;
  note: Note;
  found: (id: string, name: string) => void;
}) {
  const [grams, setGrams] = useState<number | null>(null);
  const [why, setWhy, said] = useKept(`why ${formula} ${thing.key}`, "", `Why ${thing.name} was added`);
  const [asks, setAsks] = useState(false);
  const [other, setOther] = useState({ id: "", name: "" });
  const [told, setTold] = useState("");
  const what = other.id ? { ingredient: other.id, instead_of: keyOf(thing) } : { ingredient: thing.ingredient, component: thing.component };
  const put = (kind: "in" | "added") => {
    if (grams == null || grams <= 0) return setTold("how many grams?");
    if (kind === "added" && !why.trim()) {
      setAsks(true);
      return setTold(asks ? "say why it was added" : "");
    }
    setTold("");
    void note({ kind, ...what, grams, ...(kind === "added" ? { reason: why.trim() } : {}) }, () => {
      said();
      setGrams(null);
    });
  };
  return (
    <form
      className="mt-1 rounded-md border border-rule bg-paper px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        put(asks ? "added" : "in");
      }}
    >
      {other.id && (
        <p className="mb-2 text-body text-mustard-ink">
          <b>{other.name}</b> instead of {thing.name}{" "}
          <button type="button" className="min-h-8 px-2 font-semibold text-cobalt" onClick={() => setOther({ id: "", name: "" })}>
            no, {thing.name}
          </button>
        </p>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label={`Grams of ${other.name || thing.name}`}
          measure="mass"
          className="w-37.5 [&_.field]:h-14 [&_.field]:text-right [&_.field]:text-title [&_.field]:font-semibold"
          allowEmpty
          autoFocus
          value={grams}
          onValue={setGrams}
          error={told || fieldMessage(problem, "grams")}
        />
        <button
          type="button"
          className={`${big} ${asks ? "border-2 border-rule-strong bg-white" : "bg-cobalt text-white"}`}
          disabled={busy}
          onClick={() => put("in")}
        >
          It went in
        </button>
        <button
          type="button"
          className={`${big} ${asks ? "bg-cobalt text-white" : "border-2 border-rule-strong bg-white"}`}
          disabled={busy}
          onClick={() => put("added")}
        >
          Added to taste
        </button>
        {thing.ingredient && (
          <ChooseIngredient
            label={`Something else instead of ${thing.name}`}
            className="btn-quiet min-h-14"
            onChoose={(id, name) => {
              found(id, name);
              setOther({ id, name });
            }}
          >
            instead …
          </ChooseIngredient>
        )}
      </div>
      {asks && (
        <div className="mt-3 flex flex-wrap items-center gap-2">
          <input
            className="field h-12! min-w-50 flex-1 text-lead"
            aria-label={`Why ${thing.name} was added`}
            placeholder="why?"
            maxLength={200}
            value={why}
            onChange={(e) => setWhy(e.target.value)}
          />
          {REASONS.map((r) => (
            <button
              key={r}
              type="button"
              className="min-h-12 rounded-md border border-rule-strong bg-white px-3 text-body hover:border-cobalt"
              onClick={() => setWhy(r)}
            >
              {r}
            </button>
          ))}
        </div>
      )}
      <FromScale what={thing.name} onTake={(g) => setGrams(g)} />
    </form>
  );
}

/** What it tasted like. */
function Tasted({ formula, busy, note }: { formula: string; busy: boolean; note: Note }) {
  const [words, setWords, said] = useKept(`taste ${formula}`, "", "What it tasted like");
  const send = (w: string) => w.trim() && void note({ kind: "tasted", words: w.trim(), grams: 0 }, said);
  return (
    <form
      className="flex flex-wrap items-center gap-2 border-t border-rule pt-3"
      onSubmit={(e) => {
        e.preventDefault();
        send(words);
      }}
    >
      <b className="font-title text-lead">Tasted</b>
      {TASTES.map((t) => (
        <button
          key={t}
          type="button"
          className="min-h-12 rounded-md border border-rule-strong bg-white px-3 text-body hover:border-cobalt"
          disabled={busy}
          onClick={() => send(t)}
        >
          {t}
        </button>
      ))}
      <input
        className="field h-12! min-w-40 flex-1 text-lead"
        aria-label="What it tasted like"
        placeholder="in your words"
        maxLength={200}
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      <button type="submit" className="btn-line min-h-12" disabled={busy || !words.trim()}>
        Note it
      </button>
    </form>
  );
}

function Finish({
  trial,
  onClose,
  onEnd,
}: {
  trial: Trial | null;
  onClose: () => void;
  onEnd: (end: { finished: number; score: number; note: string }) => Promise<unknown>;
}) {
  const [finished, setFinished] = useState<number | null>(null);
  const [score, setScore] = useState<number | null>(null);
  const [text, setText] = useState(trial?.note ?? "");
  const [problem, setProblem] = useState<Problem | null>(null);
  const [end, busy] = useAct(async () => {
    try {
      await onEnd({ finished: finished ?? 0, score: score === null ? 0 : Math.round(score), note: text });
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  return (
    <Modal open onClose={onClose} title="It is made" width={460}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void end();
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          <NumberField
            label="Made"
            unit="g"
            allowEmpty
            autoFocus
            value={finished}
            onValue={setFinished}
            error={fieldMessage(problem, "finished_g")}
          />
          <NumberField label="Score" unit="of 10" allowEmpty value={score} onValue={setScore} error={fieldMessage(problem, "score")} />
        </div>
        <AreaField
          className="mt-3"
          label="How was it?"
          rows={3}
          maxLength={2000}
          value={text}
          onChange={(e) => setText(e.target.value)}
          error={fieldMessage(problem, "note")}
        />
        {problem && (
          <p role="alert" className="mt-2 text-note font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn-quiet" onClick={onClose}>
            Not yet
          </button>
          <button type="submit" className="btn" disabled={busy}>
            Make it a trial
          </button>
        </div>
      </form>
    </Modal>
  );
}
