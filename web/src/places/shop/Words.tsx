import * as z from "zod/mini";
import { fieldMessage, type Problem } from "../../api/client";
import { useEntry } from "../../parts/entry";
import { Check, TextField } from "../../parts/form";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import type { Settings } from "./settings";
import { MEANINGS, type Meaning, type Term, termOf, termSays } from "./words";

/** The shop's own words of allergens, beside those that Gallipot knows: what packets and suppliers here call things. */
export function OwnWords({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const { shop } = useFormats();
  const own: Term[] = s.allergen_words ?? [];
  return (
    <section className="sheet col-span-2 p-5">
      <h2 className="phase mb-1 text-lead">Words of our own for allergens</h2>
      <p className="mb-3 max-w-[80ch] text-note text-ink-2">
        Gallipot knows some six hundred words. Where your packets and suppliers use another, say here what it means: every name and list of
        the pantry is then read with it. They count with the settings stored; taking one off that names an allergen asks why.
      </p>
      {own.length > 0 && (
        <ul className="mb-4 divide-y divide-rule border-y border-rule" aria-label="Words of our own">
          {own.map((t, i) => (
            <li key={t.words} className="flex min-h-9 items-center gap-3 text-body">
              <b className="min-w-35">{t.words}</b>
              <span className="grow text-ink-2">{termSays(t, shop.ticks)}</span>
              {fieldMessage(problem, `allergen_words[${i}]`) && (
                <span role="alert" className="font-semibold text-beet">
                  {fieldMessage(problem, `allergen_words[${i}]`)}
                </span>
              )}
              <button
                type="button"
                className="btn-quiet"
                aria-label={`Take off ${t.words}`}
                onClick={() => set({ allergen_words: own.filter((_, j) => j !== i) })}
              >
                Take off
              </button>
            </li>
          ))}
        </ul>
      )}
      <MoreWords add={(t) => set({ allergen_words: [...own, t] })} />
    </section>
  );
}

const says = (meaning: string) => meaning === "names" || meaning === "betrays";

const schema = z
  .object({
    words: z.string().check(z.refine((w) => w.trim().length >= 2, "Two letters at least.")),
    meaning: z.string(),
    on: z.array(z.string()),
    asks: z.string(),
  })
  .check(
    z.refine((t) => t.meaning !== "asks" || t.asks.trim() !== "", { path: ["asks"], error: "What does it leave open?" }),
    z.refine((t) => !says(t.meaning) || t.on.length > 0, { path: ["on"], error: "Tick what it says." }),
  );

/** One word more. It stands among the settings' fields, so it is no form element: Enter adds the word and stores nothing. */
function MoreWords({ add }: { add: (t: Term) => void }) {
  const { shop } = useFormats();
  const entry = useEntry({
    schema,
    start: { words: "", meaning: "betrays", on: [], asks: "" },
    send: async ({ words, meaning, on, asks }) => {
      const ticked = shop.ticks.filter((t) => on.includes(t.word));
      add(termOf(words, meaning as Meaning, ticked, asks));
      entry.reset();
      entry.set("meaning", meaning);
    },
  });
  const { meaning, on } = entry.values;
  const unticked = entry.error("on");
  return (
    <fieldset
      aria-label="A word more"
      className="grid grid-cols-[1fr_220px_auto] items-start gap-4"
      onKeyDown={(e) => {
        if (e.key !== "Enter" || !(e.target instanceof HTMLInputElement)) return;
        e.preventDefault();
        entry.submit();
      }}
    >
      <TextField label="A word, as packets print it" maxLength={60} {...entry.text("words")} />
      <SelectField label="What it does" options={MEANINGS} {...entry.pick("meaning")} />
      <button type="button" className="btn-line mt-5" onClick={entry.submit}>
        Add the word
      </button>
      {meaning === "asks" && (
        <TextField className="col-span-2" label="What must be answered, as “which nut”" maxLength={60} {...entry.text("asks")} />
      )}
      {says(meaning) && (
        <div className="col-span-3">
          {unticked && (
            <p role="alert" className="mb-1 text-note font-semibold text-beet">
              {unticked}
            </p>
          )}
          <div className="grid grid-cols-6 gap-x-3">
            {shop.ticks.map((t) => (
              <Check
                key={t.word}
                label={t.word}
                checked={on.includes(t.word)}
                onChange={(yes) => entry.set("on", yes ? [...on, t.word] : on.filter((w) => w !== t.word))}
              />
            ))}
          </div>
        </div>
      )}
    </fieldset>
  );
}
