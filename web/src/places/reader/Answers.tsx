import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import type { Answer, Line, Question } from "./roles";

const OPTIONS: Record<string, string> = {
  ok: "right as it is",
  first: "the first",
  second: "the second",
  bowl: "in the mix",
  topping: "on top of each jar",
  leave: "leave out",
  each: "right as it is",
  yes: "yes, add it",
  no: "no",
};

const answerButton = "min-h-7 rounded-sm border border-rule-strong bg-white px-2 hover:border-cobalt hover:text-cobalt";

function reply(code: string, option: string): Answer {
  if (code === "units") return { units: option };
  if (code === "serving") return { as: option };
  if (code === "also") return { also: option };
  return { ok: true };
}

/** What a line asks, each with its answers: one click, or its number on the keyboard. */
export function Answers({ line: l, onAnswer }: { line: Line; onAnswer: (l: Line, a: Answer) => void }) {
  const leave = l.as === "leave";
  return l.questions
    .filter((q) => q.code !== "ingredient" && (!leave || q.code === "also"))
    .map((q) => <Asked key={q.code} line={l} q={q} onAnswer={(a) => onAnswer(l, a)} />);
}

function Asked({ line: l, q, onAnswer }: { line: Line; q: Question; onAnswer: (a: Answer) => void }) {
  const { num } = useFormats();
  const pack = (q.packs_g ?? []).length > 0;
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1 text-note">
      <span className="font-semibold text-mustard-ink">{q.text}</span>
      {(q.take ?? []).map((c) => (
        <button key={c.id} type="button" data-answer className={answerButton} onClick={() => onAnswer({ ingredient: c.id })}>
          {c.name}
        </button>
      ))}
      {(q.packs_g ?? []).map((g) => (
        <button key={g} type="button" data-answer className={answerButton} onClick={() => onAnswer({ pack_g: g })}>
          {num(g, 0)} g
        </button>
      ))}
      {(q.fills ?? []).map((f) => (
        <button key={f} type="button" data-answer className={answerButton} onClick={() => onAnswer({ fill: f })}>
          {f}
        </button>
      ))}
      {q.spoon && (
        <>
          <button type="button" data-answer className={answerButton} onClick={() => onAnswer({ ml: 14.79 })}>
            a tablespoon
          </button>
          <button type="button" data-answer className={answerButton} onClick={() => onAnswer({ ml: 4.93 })}>
            a teaspoon
          </button>
        </>
      )}
      {(pack || q.spoon) && (
        <NumberField
          label={pack ? `Grams on the ${say("tin")} of ${l.name}` : `Millilitres in the spoon of ${l.name}`}
          className="w-18.5 [&_.field]:h-7 [&_.field]:text-right [&_label]:sr-only"
          late
          allowEmpty
          placeholder={pack ? "g" : "mL"}
          value={null}
          onValue={(n) => n !== null && onAnswer(pack ? { pack_g: n } : { ml: n })}
        />
      )}
      {(q.options ?? ["ok"])
        .filter((o) => !(o === "ok" && (pack || q.spoon || (q.fills ?? []).length > 0)))
        .map((o) => (
          <button key={o} type="button" data-answer className={answerButton} onClick={() => onAnswer(reply(q.code, o))}>
            {OPTIONS[o] ?? o}
          </button>
        ))}
    </div>
  );
}
