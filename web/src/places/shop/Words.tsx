import { useState } from "react";
import { fieldMessage, type Problem } from "../../api/client";
import { TextField } from "../../parts/form";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import type { Settings } from "./settings";
import { MEANINGS, type Meaning, type Term, termOf, termSays } from "./words";

/** The shop's own words of allergens, beside those that Gallipot knows: what packets and suppliers here call things. */
export function OwnWords({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const { shop } = useFormats();
  const own: Term[] = s.allergen_words ?? [];
  const [words, setWords] = useState("");
  const [meaning, setMeaning] = useState<Meaning>("betrays");
  const [on, setOn] = useState<string[]>([]);
  const [asks, setAsks] = useState("");
  const [wrong, setWrong] = useState<{ words?: string; asks?: string; on?: string }>({});
  const says = meaning === "names" || meaning === "betrays";
  const add = () => {
    const bad = {
      words: words.trim().length < 2 ? "Two letters at least." : undefined,
      asks: meaning === "asks" && !asks.trim() ? "What does it leave open?" : undefined,
      on: says && on.length === 0 ? "Tick what it says." : undefined,
    };
    setWrong(bad);
    if (Object.values(bad).some(Boolean)) return;
    const ticked = shop.ticks.filter((t) => on.includes(t.word));
    set({ allergen_words: [...own, termOf(words, meaning, ticked, asks)] });
    setWords("");
    setOn([]);
    setAsks("");
  };
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
      <fieldset
        aria-label="A word more"
        className="grid grid-cols-[1fr_220px_auto] items-start gap-4"
        onKeyDown={(e) => {
          if (e.key !== "Enter" || !(e.target instanceof HTMLInputElement)) return;
          e.preventDefault(); // it adds the word and does not store the settings
          add();
        }}
      >
        <TextField
          label="A word, as packets print it"
          value={words}
          maxLength={60}
          onChange={(e) => setWords(e.target.value)}
          error={wrong.words}
        />
        <SelectField label="What it does" value={meaning} options={MEANINGS} onValue={(chosen) => setMeaning(chosen as Meaning)} />
        <button type="button" className="btn-line mt-5" onClick={add}>
          Add the word
        </button>
        {meaning === "asks" && (
          <TextField
            className="col-span-2"
            label="What must be answered, as “which nut”"
            value={asks}
            maxLength={60}
            onChange={(e) => setAsks(e.target.value)}
            error={wrong.asks}
          />
        )}
        {says && (
          <div className="col-span-3">
            {wrong.on && (
              <p role="alert" className="mb-1 text-note font-semibold text-beet">
                {wrong.on}
              </p>
            )}
            <div className="grid grid-cols-6 gap-x-3">
              {shop.ticks.map((t) => (
                <label key={t.word} className="flex min-h-7 items-center gap-2 text-body leading-tight">
                  <input
                    type="checkbox"
                    className="size-4.25 shrink-0 accent-cobalt"
                    checked={on.includes(t.word)}
                    onChange={(e) => setOn(e.target.checked ? [...on, t.word] : on.filter((w) => w !== t.word))}
                  />
                  {t.word}
                </label>
              ))}
            </div>
          </div>
        )}
      </fieldset>
    </section>
  );
}
