import { Link } from "react-router";
import { ChooseIngredient } from "../../parts/choose";
import { measureWords } from "../../parts/measure";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { Answers } from "./Answers";
import { Remembered } from "./Remembered";
import { type Answer, isOpen, type Line, ownMeasure, pieces, ROLES, SOURCES } from "./roles";

interface Props {
  line: Line;
  bare?: boolean;
  onAnswer: (l: Line, a: Answer) => void;
  onMeasure: (l: Line) => void;
}

/** One stretch of words and, beside it, the line it became. */
export function LineRow({ line, bare, onAnswer, onMeasure }: Props) {
  const open = isOpen(line);
  const read = line.kind === "line" || line.kind === "unread";
  if (bare && !read && !open) return null;
  return (
    <div
      data-key={line.key}
      className={`grid border-b border-rule-soft ${bare ? "" : "grid-cols-[minmax(0,36%)_20px_minmax(0,1fr)]"} ${open ? "bg-mustard-tint/45" : ""}`}
    >
      {!bare && (
        <>
          <Said line={line} />
          <svg width="18" height="40" viewBox="0 0 18 40" aria-hidden="true" className="mt-0">
            {read && line.as !== "leave" && (
              <path d="M0 20q5-4 9 0t9 0" fill="none" stroke={open ? "var(--color-mustard)" : "var(--color-cobalt)"} strokeWidth="1.6" />
            )}
          </svg>
        </>
      )}
      {read ? <Weighed line={line} onAnswer={onAnswer} onMeasure={onMeasure} /> : <Kept line={line} onAnswer={onAnswer} />}
    </div>
  );
}

function Said({ line }: { line: Line }) {
  if (line.shares) return <p className="self-center pl-4 text-note text-ink-3">the same words</p>;
  const big = line.kind === "title" ? "font-semibold text-lead" : line.kind === "section" ? "phase text-lead" : "text-lead";
  return (
    <p dir="auto" className={`min-w-0 self-start py-2.5 pl-4 font-title leading-normal wrap-break-word ${big}`}>
      {line.kind === "line"
        ? pieces(line.words.trim(), shift(line)).map((p, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: runs have no identity but their place
            <span key={i} className={ROLES[p.role]?.style} title={ROLES[p.role]?.says || undefined}>
              {p.text}
            </span>
          ))
        : line.words}
    </p>
  );
}

/** The marks of the words without the blanks around them. */
function shift(line: Line) {
  const lead = Array.from(line.words).length - Array.from(line.words.trimStart()).length;
  return line.marks.map((m) => ({ ...m, from: Math.max(0, m.from - lead), to: Math.max(0, m.to - lead) }));
}

/** Measures that everybody has alike: nobody weighs a millilitre of their own. */
const PLAIN = new Set(["ml", "cl", "dl", "l", "fl_oz", "pint", "quart"]);

const KEPT: Record<string, string> = {
  title: "the name",
  section: "a heading",
  step: "a step of the method",
  yield: "the yield it states",
  remark: "a remark",
};

function Kept({ line, onAnswer }: { line: Line; onAnswer: Props["onAnswer"] }) {
  return (
    <div className="self-center py-2 pr-4 pl-1 text-note text-ink-3">
      {line.kind === "title" && line.name ? `the name: ${line.name}` : (KEPT[line.kind] ?? "kept")}
      <Answers line={line} onAnswer={onAnswer} />
    </div>
  );
}

function Weighed({ line: l, onAnswer, onMeasure }: Omit<Props, "bare">) {
  const { num } = useFormats();
  const source = SOURCES[l.source];
  const leave = l.as === "leave";
  return (
    <div className="min-w-0 py-2 pr-4 pl-1">
      <div className="flex items-center gap-3">
        <div className="min-w-0 flex-1">
          {l.ingredient ? (
            <ChooseIngredient
              label={`${l.name}: take another ingredient`}
              className={`max-w-full rounded-sm text-left text-lead leading-tight hover:text-cobalt ${leave ? "text-ink-3 line-through" : ""}`}
              onChoose={(id) => onAnswer(l, { ingredient: id })}
            >
              {l.any_of.length > 1 ? "any of the group: " : ""}
              {l.name}
            </ChooseIngredient>
          ) : (
            <span className={`font-semibold ${leave ? "text-ink-3" : "text-beet"}`}>
              {leave ? "kept as words only" : "not known to the pantry"}
            </span>
          )}
        </div>
        {l.ingredient && !leave && (
          <>
            {l.grams != null && (
              <span className="inline-flex items-center gap-1.5 text-note whitespace-nowrap text-ink-2" title={l.how}>
                <span
                  aria-hidden
                  className={`h-2.25 border border-cobalt ${source?.solid && l.spread_percent < 1.5 ? "bg-cobalt" : "hatch"}`}
                  style={{ width: Math.max(5, Math.min(52, l.spread_percent)) }}
                />
                ±{num(l.spread_percent, 0)} %
              </span>
            )}
            <NumberField
              label={`Grams of ${l.name}`}
              measure="mass"
              className="w-21 shrink-0 [&_.field]:h-8 [&_.field]:text-right [&_.field]:text-lead [&_.field]:font-medium [&_label]:sr-only"
              late
              allowEmpty={l.grams == null}
              data-first={l.to_weigh ? "" : undefined}
              placeholder="weigh"
              value={l.grams == null ? null : Number(l.grams.toFixed(l.grams < 10 ? 1 : 0))}
              onValue={(n) => n !== null && onAnswer(l, { grams: n })}
            />
          </>
        )}
        <button
          type="button"
          className="min-h-7 w-14.5 shrink-0 text-right text-note text-ink-3 hover:text-cobalt"
          aria-pressed={leave}
          onClick={() => onAnswer(l, { as: leave ? "bowl" : "leave" })}
        >
          {leave ? "take it in" : "leave out"}
        </button>
      </div>
      {!leave && (
        <p className="text-note leading-normal text-ink-2">
          {source && <b className="font-semibold">{source.words}</b>}
          {source && l.how ? ": " : ""}
          {l.how}
          {l.hold_back && "; divided: half is held back"}
          {l.fixed && "; stays as it is when the rest is doubled"}
          {l.thaw && "; thaw and finish: at or below 5 °C, within four days, never frozen again"}
          {(l.source === "weighed" || l.source === "guessed") && l.grams != null && (
            <button
              type="button"
              className="ml-2 min-h-6 font-semibold text-cobalt hover:underline"
              onClick={() => onAnswer(l, { grams: l.grams ?? undefined, guessed: l.source === "weighed" })}
            >
              {l.source === "weighed" ? "it is a guess" : "it was weighed"}
            </button>
          )}
          {l.measure && !PLAIN.has(l.measure) && l.source !== "house" && l.source !== "weighed" && (
            <button
              type="button"
              className="ml-2 min-h-6 font-semibold text-cobalt hover:underline"
              onClick={() => onMeasure({ ...l, measure: ownMeasure(l) })}
            >
              weigh your {measureWords(ownMeasure(l))}
            </button>
          )}
          {l.remark && <span className="italic"> “{l.remark}”</span>}
        </p>
      )}
      {!leave && !l.ingredient && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          {l.near.map((n, i) => (
            <button
              key={n.id}
              type="button"
              data-first={i === 0 ? "" : undefined}
              data-answer
              className="min-h-7 rounded-sm border border-rule-strong bg-white px-2 text-note hover:border-cobalt hover:text-cobalt"
              onClick={() => onAnswer(l, { ingredient: n.id })}
            >
              {n.name}
            </button>
          ))}
          <ChooseIngredient
            label={`Choose an ingredient for “${l.words.trim()}”`}
            className="min-h-7 px-1 text-note font-semibold text-cobalt"
            onChoose={(id) => onAnswer(l, { ingredient: id })}
          >
            {l.near.length ? "another …" : "choose from the pantry …"}
          </ChooseIngredient>
          <Link
            to={`/pantry?new=1&name=${encodeURIComponent(unknownName(l))}`}
            className="px-1 text-note font-semibold text-cobalt hover:underline"
          >
            add to the pantry
          </Link>
        </div>
      )}
      <Answers line={l} onAnswer={onAnswer} />
      <Remembered line={l} />
    </div>
  );
}

/** The words that nobody understood, as a name to begin with. */
function unknownName(l: Line): string {
  const words = pieces(l.words, l.marks)
    .filter((p) => p.role === "unread")
    .map((p) => p.text.trim())
    .join(" ");
  return words.charAt(0).toUpperCase() + words.slice(1, 120);
}
