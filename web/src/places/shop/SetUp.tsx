import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { settingsOf } from "../../api/queries/shop";
import { AreaField, TextField } from "../../parts/form";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { say } from "../../tongue/words";
import { BasicFields, type Settings } from "./settings";

/** What a shop starts with, by the language of the browser and the law that goes with it. */
function begunWith(laws: Schemas["LawView"][], language: string): Partial<Settings> {
  const law = laws.find((l) => l.locale === language);
  if (!law) return {};
  const { regime, locale, currency, time_zone, beside } = law;
  return { regime, locale, currency, time_zone, beside };
}

/** First start: who you are, what the shop is called, which law its labels follow, and the first product. */
export default function SetUp() {
  const { shop } = useFormats();
  const { laws } = shop;
  const [s, setS] = useState<Settings>({ ...settingsOf(shop), ...begunWith(laws, navigator.language) });
  const [first, setFirst] = useState("");
  const [words, setWords] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  const navigate = useNavigate();
  const [begin, busy] = useAct(async () => {
    try {
      await take(api.PUT("/shop", { params: { query: { rev: 0 } }, body: s }));
      let to = "/formulas";
      if (first.trim() && !words.trim()) {
        const sheet = await take(api.POST("/formulas", { body: { name: first } }));
        to = `/formulas/${sheet.formula}/1`;
      }
      if (words.trim()) {
        const recipe = await take(api.POST("/recipes", { body: { name: first.trim() || undefined, words } }));
        to = `/reader/${recipe.id}`;
      }
      // there first, and at once: what is shown when the shop is set up follows the address
      await navigate(to, { flushSync: true });
      await refreshAll(client);
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  const other = problem && !fieldMessage(problem, "name", "regime", "currency", "words") ? problem.title : "";
  return (
    <main className="mx-auto max-w-160 px-6 py-6">
      <p className="mb-4 flex items-center gap-3 font-title text-display font-semibold">
        <img src="/jar.svg" alt="" width="36" /> Gallipot
      </p>
      <form
        className="sheet p-6"
        onSubmit={(e) => {
          e.preventDefault();
          void begin();
        }}
      >
        <h1 className="mb-1 font-title text-title font-semibold">Set up the shop</h1>
        <p className="mb-5 text-ink-2">
          Three answers, and the pantry is filled with 236 ingredients at typical values, ready for your prices.
        </p>
        <BasicFields s={s} set={(c) => setS({ ...s, ...c })} problem={problem} />
        <TextField
          className="mt-4"
          label="Your first product (may wait)"
          placeholder={say("example_product")}
          value={first}
          onChange={(e) => setFirst(e.target.value)}
        />
        <AreaField
          className="mt-4"
          label="or paste its recipe as you would say it (may wait)"
          rows={4}
          placeholder={say("example_words")}
          value={words}
          onChange={(e) => setWords(e.target.value)}
          error={fieldMessage(problem, "words")}
        />
        {other && (
          <p role="alert" className="mt-4 font-semibold text-beet">
            {other}
          </p>
        )}
        <div className="mt-6 flex justify-end">
          <button type="submit" className="btn" disabled={busy || !s.name.trim()}>
            Begin
          </button>
        </div>
      </form>
    </main>
  );
}
