import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { refreshFormulas } from "../../api/queries/formulas";
import { refreshRecipe, useRecipe } from "../../api/queries/reader";
import { Head, Modal, TextField } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { MeasureDialog } from "../../parts/measure";
import { toast } from "../../parts/toast";
import { useAct } from "../../saving/act";
import { Clash, plainSide } from "../../saving/Clash";
import { useUnsaved } from "../../saving/unsaved";
import { useAutosave } from "../../saving/useAutosave";
import { LineRow } from "./LineRow";
import { type Answer, isOpen, type Line, type Recipe } from "./roles";
import { Beside, OpenPoints } from "./sides";
import { stand, useOpenPoints } from "./useOpenPoints";
import { useRemembered } from "./useRemembered";

export default function Reader() {
  const { id = "" } = useParams();
  const n = Number(id) || 0;
  const q = useRecipe(n);
  if (q.isPending) return <Loading what="the recipe" />;
  if (q.isError) return <Failed message={problemOf(q.error).title} again={() => q.refetch()} />;
  return <Open key={n} recipe={q.data} />;
}

interface Body {
  name: string;
  words: string;
  answers: Record<string, Answer>;
}

/** Words and answers, saved as they change. */
function useRecipeDraft(initial: Recipe) {
  const client = useQueryClient();
  return useAutosave<Body, Recipe>(`recipe ${initial.id}`, initial, {
    what: `the recipe “${initial.name}”`,
    link: `/reader/${initial.id}`,
    bodyOf: ({ name, words, answers }) => ({ name, words, answers }),
    revOf: (r) => r.rev,
    send: (body, rev) => take(api.PUT("/recipes/{id}", { params: { path: { id: initial.id }, query: { rev } }, body })),
    stored: (next) => void refreshRecipe(client, next),
  });
}

function Open({ recipe: initial }: { recipe: Recipe }) {
  const saver = useRecipeDraft(initial);
  const { view: recipe, problem, value } = saver.held;
  const save = useCallback((change: Partial<Body>) => saver.put({ ...saver.held.value, ...change }), [saver]);
  const navigate = useNavigate();
  const client = useQueryClient();
  const [writing, setWriting] = useState(initial.words.trim() === "");
  const [words, setWords] = useState(value.words);
  const [naming, setNaming] = useState(false);
  const [measure, setMeasure] = useState<Line | null>(null);
  const table = useRef<HTMLElement>(null);
  const open = recipe.reading.lines.filter(isOpen);
  const count = recipe.reading.still_open;
  const points = useOpenPoints(table, recipe.reading.lines);
  useRemembered();

  // Typed words are read when the typing pauses.
  useEffect(() => {
    if (!writing || words === saver.held.value.words) return;
    const wait = setTimeout(() => save({ words }), 400);
    return () => clearTimeout(wait);
  }, [writing, words, save, saver]);
  useUnsaved(writing && words !== value.words ? `The words of “${recipe.name}”` : "");

  const answer = (l: Line, a: Answer) => {
    const answers = { ...saver.held.value.answers };
    const merged = { ...answers[l.key], ...a };
    answers[l.key] = merged;
    points.follow(l.key);
    save({ answers });
  };
  const show = (key: string) => stand(table.current, key);
  const [splitUp] = useAct(async () => {
    const parts = await take(api.POST("/recipes/{id}/apart", { params: { path: { id: recipe.id }, query: { rev: recipe.rev } } }));
    for (const r of parts) void refreshRecipe(client, r);
    const rest = parts.slice(1);
    toast(`${rest.map((r) => `“${r.name}”`).join(" and ")} ${rest.length === 1 ? "waits" : "wait"} in the Reader, read by itself.`, {
      action: { label: "Open it", onClick: () => navigate(`/reader/${rest[0]?.id}`) },
    });
  });
  return (
    <div className="flex h-full flex-col px-6 pt-4 pb-4 max-tablet:h-auto max-tablet:px-3">
      <Head
        title={recipe.name}
        sub="as it was said"
        state={
          <span
            className={`rounded-sm border-2 px-2 py-px text-note font-semibold whitespace-nowrap ${count ? "border-mustard bg-mustard-tint text-mustard-ink" : "border-leaf bg-leaf-tint text-leaf"}`}
          >
            {count ? `${count} open` : "all settled"}
          </span>
        }
      >
        <button
          type="button"
          className="btn-quiet"
          onClick={() => {
            if (writing) save({ words });
            else setWords(saver.held.value.words);
            setWriting(!writing);
          }}
        >
          {writing ? "Back to the reading" : "Change the words"}
        </button>
        {recipe.made && (
          <button type="button" className="btn-quiet" onClick={() => navigate(`/formulas/${recipe.made?.formula}/${recipe.made?.version}`)}>
            Its formula
          </button>
        )}
        <button type="button" className="btn" onClick={() => setNaming(true)}>
          Make it a draft
        </button>
      </Head>
      <Clash saver={saver} words={plainSide} />
      {saver.held.status === "refused" && problem && (
        <p role="alert" className="mt-2 border-l-4 border-beet bg-beet-tint px-3 py-1 text-note text-beet">
          <b>{problem.title}</b> What you typed is kept here, not stored.
        </p>
      )}
      <OpenPoints
        lines={open}
        notices={recipe.reading.notices}
        onShow={show}
        onNext={() => points.go(1)}
        onNotice={(code, option) =>
          option === "apart" ? void splitUp() : save({ answers: { ...saver.held.value.answers, [code]: { units: option } } })
        }
      />
      <div className="flex min-h-0 flex-1 gap-5 pt-3 max-desk:gap-4 max-tablet:flex-col">
        <section ref={table} className="sheet flex min-h-0 min-w-0 flex-1 flex-col" aria-label="Words and weighed lines">
          <div
            className="grid h-8 shrink-0 grid-cols-[minmax(0,36%)_20px_minmax(0,1fr)] items-center border-b border-rule text-note text-ink-3"
            aria-hidden="true"
          >
            <span className="pl-4">what was said</span>
            <span />
            <span className="flex justify-between pr-4">
              weighed line <span>grams</span>
            </span>
          </div>
          {writing ? (
            <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,36%)_20px_minmax(0,1fr)]">
              <div className="flex min-h-0 flex-col bg-white">
                <input
                  aria-label="Name of the recipe"
                  className="mx-4 mt-3 border-b border-rule pb-1 font-title text-lead font-semibold"
                  maxLength={120}
                  defaultValue={recipe.name}
                  onBlur={(e) => e.target.value.trim() && e.target.value !== recipe.name && save({ name: e.target.value })}
                />
                <textarea
                  aria-label="The words"
                  className="min-h-0 flex-1 resize-none bg-white px-4 py-3 font-title text-lead leading-loose"
                  value={words}
                  onChange={(e) => setWords(e.target.value)}
                />
              </div>
              <span />
              <div className="min-h-0 overflow-y-auto">
                {recipe.reading.lines.map((l) => (
                  <LineRow key={`${l.key}${l.ingredient}`} line={l} bare onAnswer={answer} onMeasure={setMeasure} />
                ))}
              </div>
            </div>
          ) : (
            <div className="min-h-0 flex-1 overflow-y-auto">
              {recipe.reading.lines.length === 0 && (
                <p className="p-5 text-ink-2">No words yet. Paste a recipe under “Change the words”.</p>
              )}
              {recipe.reading.lines.map((l) => (
                <LineRow key={`${l.key}${l.ingredient}${l.shares}`} line={l} onAnswer={answer} onMeasure={setMeasure} />
              ))}
            </div>
          )}
        </section>
        <Beside reading={recipe.reading} onShow={show} />
      </div>
      {measure && (
        <MeasureDialog
          ingredient={measure.measure_of || measure.ingredient}
          name={measure.name}
          measure={measure.measure}
          onClose={() => setMeasure(null)}
        />
      )}
      {naming && (
        <NameDraft
          recipe={recipe}
          onClose={() => setNaming(false)}
          onShow={(i) => {
            setNaming(false);
            const l = recipe.reading.lines[i];
            if (l) setTimeout(() => show(l.key), 50);
          }}
          onMade={async (formula) => {
            await refreshFormulas(client);
            toast("The draft is open. It keeps the words it came from.");
            navigate(`/formulas/${formula}/1`);
          }}
        />
      )}
    </div>
  );
}

function NameDraft({
  recipe,
  onClose,
  onShow,
  onMade,
}: {
  recipe: Recipe;
  onClose: () => void;
  onShow: (line: number) => void;
  onMade: (formula: string) => void;
}) {
  const [name, setName] = useState(recipe.name);
  const [problem, setProblem] = useState<Problem | null>(null);
  const toWeigh = recipe.reading.lines.filter((l) => l.as !== "leave" && l.to_weigh && l.ingredient).length;
  const [make, busy] = useAct(async () => {
    try {
      const sheet = await take(api.POST("/recipes/{id}/draft", { params: { path: { id: recipe.id } }, body: { name } }));
      onMade(sheet.formula);
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  const lines = problem?.fields.filter((f) => f.field.startsWith("lines[")) ?? [];
  return (
    <Modal open onClose={onClose} title="Make it a draft" width={520}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <TextField
          label="What will the product be called?"
          autoFocus
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
          error={problem ? fieldMessage(problem, "name", "words") : ""}
        />
        {toWeigh > 0 && (
          <p className="mt-3 text-note text-ink-2">
            {toWeigh} {toWeigh === 1 ? "line is" : "lines are"} still to weigh. The draft opens all the same; it cannot be locked before.
          </p>
        )}
        {lines.length > 0 && (
          <div role="alert" className="mt-3 text-note">
            <b className="text-beet">First answer what is open, so that nothing is dropped:</b>
            <ul className="mt-1 grid gap-1">
              {lines.map((f) => (
                <li key={f.field}>
                  <button
                    type="button"
                    className="min-h-6 text-left text-cobalt hover:underline"
                    onClick={() => onShow(Number(f.field.slice(6, -1)))}
                  >
                    {f.message}
                  </button>
                </li>
              ))}
            </ul>
          </div>
        )}
        {problem && problem.fields.length === 0 && (
          <p role="alert" className="mt-2 font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn-quiet" onClick={onClose}>
            Not yet
          </button>
          <button type="submit" className="btn" disabled={busy || !name.trim()}>
            Open the draft
          </button>
        </div>
      </form>
    </Modal>
  );
}
