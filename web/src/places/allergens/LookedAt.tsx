import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue, useState } from "react";
import { useSearchParams } from "react-router";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { useTextMarks } from "../../api/queries/allergens";
import { refreshAll } from "../../api/queries/keys";
import { AreaField, Foot, TextField } from "../../parts/form";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { WhyDialog } from "../../parts/why";
import { useKept } from "../../saving/kept";
import { asksOf, type ByLaw, codesOf, joined, runsOf, type TextMark, type Tick, told, wordsFor } from "./marked";

type View = Schemas["IngredientView"];

/** What is in an ingredient, and who read it: the act that opens its products to a lock. */
export function LookedAt({ view, adopt }: { view: View; adopt: (v: View) => void }) {
  const { shop, day } = useFormats();
  const me = useMe();
  const [params, setParams] = useSearchParams();
  const [looking, setLooking] = useState(params.get("look") === "1" && me.may("maker"));
  const open = view.open.length > 0;
  const carries = wordsFor(view.carries, shop.ticks);
  const close = () => {
    setLooking(false);
    if (params.has("look")) setParams({}, { replace: true });
  };
  return (
    <section aria-label="What is in it" className={`sheet mt-3 border-l-6 ${open ? "border-l-mustard" : "border-l-leaf"} px-4 py-3`}>
      <div
        className={`-mx-4 -mt-3 flex flex-wrap items-baseline last:-mb-3 gap-x-4 gap-y-1 px-4 py-2.5 ${open ? "bg-mustard-tint" : "bg-leaf-tint"}`}
      >
        <p className="min-w-0 flex-1 text-lead">
          <b>
            {carries.length > 0
              ? `${open ? "At least " : "Contains "}${carries.join(", ")}`
              : open
                ? "Nothing is known yet"
                : "No allergen"}
          </b>
          <span className="ml-2 text-note text-ink-2">
            {open
              ? `open: ${view.open.join("; ")}`
              : `looked at by ${view.looked?.by}${view.looked?.on ? `, ${day(view.looked.on, true)}` : ""}, from ${view.looked?.from}`}
          </span>
        </p>
        {!looking && me.may("maker") && (
          <button type="button" className={open ? "btn" : "btn-line"} onClick={() => setLooking(true)}>
            {open ? "Look at it" : "Look again"}
          </button>
        )}
      </div>
      {view.may_contain && Object.values(view.may_contain.allergens).some((c) => c.length > 0) && (
        <p className="mt-1 text-note text-ink-2">
          May contain {wordsFor(view.may_contain.allergens, shop.ticks).join(", ")}, by the supplier's statement.
        </p>
      )}
      <Inheritance view={view} adopt={adopt} />
      {looking && (
        <LookForm
          view={view}
          onClose={close}
          onSigned={(v) => {
            adopt(v);
            close();
          }}
          onTheirs={adopt}
        />
      )}
    </section>
  );
}

function Inheritance({ view, adopt }: { view: View; adopt: (v: View) => void }) {
  const { shop } = useFormats();
  const me = useMe();
  const [off, setOff] = useState<{ what: string; word: string; off: boolean } | null>(null);
  const allergens = shop.ticks
    .filter((t) => told(t, view.inherited.allergens))
    .map((t) => ({ what: Object.values(t.codes)[0], word: t.word }));
  const flags = view.inherited.flags.map((f) => ({ what: f, word: f.replaceAll("_", " ") }));
  const lifted = view.lifted ?? [];
  if (allergens.length + flags.length + lifted.length === 0) return null;
  return (
    <div className="mt-2 border-t border-rule pt-2 text-note">
      {allergens.length + flags.length > 0 && (
        <p className="text-ink-2">
          Inherited from {view.inherited.from.join(", ") || "what it is kept in"}:{" "}
          {[...allergens, ...flags].map((x, i) => (
            <span key={x.what}>
              {i > 0 && ", "}
              <b className="text-ink">{x.word}</b>
              {me.may("owner") && (
                <button type="button" className="ml-1 min-h-6 text-beet underline" onClick={() => setOff({ ...x, off: true })}>
                  take off<span className="sr-only"> {x.word}</span>
                </button>
              )}
            </span>
          ))}
          . Straining, frying and freezing take none of it away.
        </p>
      )}
      {lifted.map((x) => (
        <p key={x.what} className="text-ink-2">
          {x.what.replace(/^.*:/, "").replaceAll("_", " ")} was taken off by {x.by}: {x.reason}{" "}
          {me.may("owner") && (
            <button
              type="button"
              className="min-h-6 text-cobalt underline"
              onClick={() => setOff({ what: x.what, word: x.what, off: false })}
            >
              leave it on again
            </button>
          )}
        </p>
      ))}
      <WhyDialog
        open={!!off}
        title={off?.off ? `Take ${off.word} off ${view.name}` : `Leave ${off?.word} on again`}
        text="What it is made of carries it. Say what makes it gone, or why it is there again."
        button={off?.off ? "Take it off" : "Leave it on"}
        act={async (reason) => {
          if (!off) return;
          adopt(
            await take(
              api.POST("/ingredients/{id}/lift", {
                params: { path: { id: view.id }, query: { rev: view.rev } },
                body: { what: off.what, off: off.off, reason },
              }),
            ),
          );
        }}
        onClose={() => setOff(null)}
      />
    </div>
  );
}

const KINDS: Record<string, { name: string; look: string }> = {
  names: { name: "names it", look: "border-b-3 border-cobalt font-bold text-cobalt" },
  betrays: { name: "betrays it", look: "border-b-3 border-dotted border-cobalt font-semibold text-cobalt" },
  asks: { name: "leaves it open", look: "border-b-3 border-mustard bg-mustard-tint font-semibold text-mustard-ink" },
  states: { name: "may contain, no ingredient", look: "border-b-3 border-dashed border-ink-3 text-ink-2 italic" },
};

/** A text with the words marked that say something of allergens. */
function Marked({ text, marks }: { text: string; marks: TextMark[] }) {
  return (
    <div className="border border-paper-edge bg-paper px-3 py-2 text-lead leading-loose" aria-live="polite">
      {text.trim() === "" ? (
        <span className="text-ink-3">The words of the list are read here as you paste them.</span>
      ) : (
        runsOf(text, marks).map((r, i) =>
          r.mark ? (
            // biome-ignore lint/suspicious/noArrayIndexKey: runs have no identity but their place
            <span key={i} className={KINDS[r.mark.kind]?.look} title={titleOf(r.mark)}>
              {r.text}
              <span className="sr-only"> ({titleOf(r.mark)})</span>
            </span>
          ) : (
            // biome-ignore lint/suspicious/noArrayIndexKey: runs have no identity but their place
            <span key={i}>{r.text}</span>
          ),
        )
      )}
    </div>
  );
}

function titleOf(m: TextMark): string {
  const codes = [...new Set(Object.values(m.allergens).flatMap((c) => (c ?? []).map((x) => x.replace(/^.*:/, "").replaceAll("_", " "))))];
  return [KINDS[m.kind]?.name, codes.join(", "), m.kind === "states" ? "" : m.asks].filter(Boolean).join(": ");
}

/** Fields of a look whose fault is a box that is not ticked. */
const UNTICKED = /^(allergens|may_contain)/;

interface Looking {
  view: View;
  onClose: () => void;
  onSigned: (v: View) => void;
  onTheirs: (v: View) => void; // somebody else changed it meanwhile; what is typed here stays
}

function LookForm({ view, onClose, onSigned, onTheirs }: Looking) {
  const { shop } = useFormats();
  const me = useMe();
  const client = useQueryClient();
  const laws = shop.laws.toSorted((a, b) => Number(b.regime === shop.regime) - Number(a.regime === shop.regime));
  const kept = `look ${view.id}`;
  const what = `What was read of ${view.name}`;
  const [lists, setLists, listsDone] = useKept<Record<string, string>>(`${kept} lists`, { ...view.supplier_lists }, what);
  const [from, setFrom, fromDone] = useKept(`${kept} from`, "", what);
  const [answers, setAnswers, answersDone] = useKept<Record<string, string>>(
    `${kept} answers`,
    Object.fromEntries((view.looked?.answers ?? []).map((a) => [a.ask, a.says])),
    what,
  );
  const [kinds, setKinds] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState<Problem | null>(null);
  const [losing, setLosing] = useState<Problem | null>(null);
  const first = laws[0].regime.toLowerCase();
  const shown = lists[first] ?? "";
  const names = [view.name, ...Object.values(view.label_names)].join(" ; ");
  const whole = useDeferredValue([names, ...Object.values(lists)].join(" ; "));
  const all = useTextMarks(whole);
  const list = useTextMarks(useDeferredValue(shown));
  const marks = all.data ?? [];
  const words = codesOf(marks);
  const stated = codesOf(marks, "states");
  const recorded = shop.ticks.filter((t) => told(t, view.allergens) && !told(t, words)).map((t) => t.word);
  const [ticked, setTicked, tickedDone] = useKept<string[]>(`${kept} ticked`, recorded, what);
  const [mays, setMays, maysDone] = useKept<string[]>(`${kept} mays`, wordsFor(view.may_contain?.allergens ?? {}, shop.ticks), what);
  const done = () => {
    for (const let_go of [listsDone, fromDone, answersDone, tickedDone, maysDone]) let_go();
  };
  const asks = asksOf(marks);
  const speaks = marks.some((m) => m.kind === "states");
  const chosen = shop.ticks.filter((t) => ticked.includes(t.word));
  const may = shop.ticks.filter((t) => mays.includes(t.word) || told(t, stated));

  const sign = async (why?: string) => {
    const body = {
      from,
      allergens: joined(words, chosen, kinds),
      may_contain: may.length > 0 ? joined({}, may) : undefined,
      statement: marks
        .filter((m) => m.kind === "states")
        .map((m) => whole.slice(m.start, m.end))
        .join("; "),
      answers: [
        ...asks.map((ask) => ({ ask, says: answers[ask] ?? "" })),
        ...(speaks
          ? [{ ask: "may contain", says: may.length > 0 ? may.map((t) => t.word).join(", ") : "nothing that is an allergen here" }]
          : []),
      ],
      supplier_lists: Object.fromEntries(Object.entries(lists).filter(([, t]) => t.trim() !== "")),
      sulphites_mg_kg: view.sulphites_mg_kg ?? null,
    };
    try {
      const v = await take(api.POST("/ingredients/{id}/look", { params: { path: { id: view.id }, query: { rev: view.rev, why } }, body }));
      toast(`${view.name} is looked at.`);
      await refreshAll(client);
      done();
      onSigned(v);
    } catch (e) {
      const p = problemOf(e);
      if (p.status === 409 && p.current) onTheirs(p.current as View);
      if (p.code === "loses" && !why) setLosing(p);
      else if (why) throw e;
      else setProblem(p);
    }
  };
  return (
    <form
      className="mt-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-6 gap-y-4 max-desk:grid-cols-1"
      data-read={all.isSuccess && !all.isPlaceholderData ? "yes" : "no"}
      onSubmit={(e) => {
        e.preventDefault();
        setProblem(null);
        void sign();
      }}
    >
      <div className="grid content-start gap-3">
        <AreaField
          label={`The list as the packet prints it, ${laws[0].title} wording`}
          rows={4}
          autoFocus
          value={shown}
          placeholder="leave it empty where it is a single food"
          onChange={(e) => setLists({ ...lists, [first]: e.target.value })}
          error={fieldMessage(problem, `supplier_lists.${first}`)}
        />
        <Marked text={shown} marks={shown.trim() === "" ? [] : (list.data ?? [])} />
        <ul className="flex flex-wrap gap-x-4 gap-y-1 text-note text-ink-2" aria-label="How words are marked">
          {Object.entries(KINDS).map(([k, x]) => (
            <li key={k}>
              <span className={x.look}>word</span> {x.name}
            </li>
          ))}
        </ul>
        {laws.slice(1).map((l) => {
          const law = l.regime.toLowerCase();
          return (
            <AreaField
              key={law}
              label={`the same in ${l.title} wording, where it differs`}
              rows={2}
              value={lists[law] ?? ""}
              onChange={(e) => setLists({ ...lists, [law]: e.target.value })}
              error={fieldMessage(problem, `supplier_lists.${law}`)}
            />
          );
        })}
        {asks.map((ask) => (
          <TextField
            key={ask}
            label={`Its words leave open: ${ask}. Which is it, or none?`}
            value={answers[ask] ?? ""}
            placeholder="none, by the packet"
            onChange={(e) => setAnswers({ ...answers, [ask]: e.target.value })}
            error={problem?.fields.find((f) => f.field.startsWith("answers") && f.message.includes(`“${ask}”`))?.message}
          />
        ))}
        <TextField
          label="What did you read?"
          value={from}
          placeholder="the packet, the supplier's sheet, the food itself"
          onChange={(e) => setFrom(e.target.value)}
          error={fieldMessage(problem, "from")}
        />
        {problem?.fields.some((f) => UNTICKED.test(f.field)) && (
          <p role="alert" className="text-note font-semibold text-beet">
            {problem.fields.find((f) => UNTICKED.test(f.field))?.message}
          </p>
        )}
        <Foot
          problem={problem}
          onLeave={() => {
            done();
            onClose();
          }}
        >
          Sign it, {me.name}
        </Foot>
      </div>
      <div className="grid content-start gap-4">
        <Ticks
          title="In it"
          hint="What the words say is ticked already; tick what else the packet says."
          ticks={shop.ticks}
          by={words}
          on={ticked}
          onChange={setTicked}
        >
          {shop.ticks
            .filter((t) => ticked.includes(t.word) && Object.values(t.codes).some((c) => c.endsWith(":species not named")))
            .map((t) => (
              <TextField
                key={t.word}
                className="col-span-3"
                label={`Which ${t.word}?`}
                value={kinds[t.word] ?? ""}
                onChange={(e) => setKinds({ ...kinds, [t.word]: e.target.value })}
                hint="a US label names it"
              />
            ))}
        </Ticks>
        <details open={speaks || mays.length > 0}>
          <summary className="min-h-6 cursor-pointer font-semibold text-cobalt">It may contain, by the supplier's statement</summary>
          <Ticks title="" ticks={shop.ticks} by={stated} on={mays} onChange={setMays} />
        </details>
      </div>
      <WhyDialog
        open={!!losing}
        title="An allergen is taken off"
        text={losing?.title}
        button="Take it off"
        act={(why) => sign(why)}
        onClose={() => setLosing(null)}
      />
    </form>
  );
}

function Ticks({
  title,
  hint,
  ticks,
  by,
  on,
  onChange,
  children,
}: {
  title: string;
  hint?: string;
  ticks: Tick[];
  by: ByLaw;
  on: string[];
  onChange: (on: string[]) => void;
  children?: ReactNode;
}) {
  return (
    <fieldset>
      {title && <legend className="phase text-lead">{title}</legend>}
      {hint && <p className="mb-1 text-note text-ink-2">{hint}</p>}
      <div className="grid grid-cols-3 gap-x-3">
        {ticks.map((t) => {
          const said = told(t, by);
          return (
            <label
              key={t.word}
              className={`flex min-h-7 items-center gap-2 text-body leading-tight ${said ? "font-semibold text-cobalt" : ""}`}
            >
              <input
                type="checkbox"
                className="size-4.25 shrink-0 accent-cobalt"
                checked={said || on.includes(t.word)}
                disabled={said}
                onChange={(e) => onChange(e.target.checked ? [...on, t.word] : on.filter((w) => w !== t.word))}
              />
              <span>{t.word}</span>
            </label>
          );
        })}
        {children}
      </div>
    </fieldset>
  );
}
