import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, problemOf, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { settingsOf } from "../../api/queries/shop";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";

type Lead = Schemas["Lead"];

const STEPS: Record<string, { word: string; says: (name: string) => string; button: string }> = {
  recipe: {
    word: "a recipe",
    says: () => "Paste a recipe as you would say it, or write it down line by line. It becomes weighed grams.",
    button: "Write the first recipe",
  },
  price: {
    word: "its prices",
    says: (name) => `What does ${name} cost? Say what you pay for a pack; the cost of a jar follows.`,
    button: "Give the next price",
  },
  lock: {
    word: "a lock",
    says: (name) => `Lock ${name} once it is right. Batches are made of what cannot change.`,
    button: "To the sheet, to lock it",
  },
  batch: {
    word: "a batch",
    says: (name) => `Make a batch of ${name}: say how many jars, and the weigh sheet is ready.`,
    button: "Make the first batch",
  },
  reading: {
    word: "its readings",
    says: () => "Weigh it, fill it, measure it on the next day, and decide: only a measured batch leaves the shop.",
    button: "To the batch",
  },
  label: {
    word: "a label",
    says: (name) => `The words of ${name} are written already. Set them on your label and print.`,
    button: "To its label",
  },
};

/** What a new shop does next on its way to a first label: one step at a time, and it can be left at once. */
export function LeadOn({ lead }: { lead: Lead }) {
  const { shop } = useFormats();
  const me = useMe();
  const client = useQueryClient();
  const [wrong, setWrong] = useState("");
  const [leave, busy] = useAct(async () => {
    try {
      await take(api.PUT("/shop", { params: { query: { rev: shop.rev } }, body: { ...settingsOf(shop), lead_left: true } }));
      await refreshAll(client);
    } catch (e) {
      setWrong(problemOf(e).title);
    }
  });
  const step = STEPS[lead.next];
  if (!step) return null;
  return (
    <section className="sheet mb-5 max-w-245 px-8 py-7" aria-label="On the way to the first label">
      <ol className="mb-6 flex flex-wrap items-center gap-x-2.5 gap-y-1 text-body">
        {Object.entries(STEPS).map(([k, s], i) => {
          const done = lead.done.includes(k);
          return (
            <li key={k} className="flex items-center gap-2">
              {i > 0 && <span aria-hidden className="h-px w-6 bg-rule-strong" />}
              <span
                aria-hidden
                className={`flex size-6 items-center justify-center rounded-full border text-note ${done ? "border-leaf bg-leaf text-white" : k === lead.next ? "border-cobalt bg-cobalt text-white" : "border-rule-strong bg-white text-ink-2"}`}
              >
                {done ? "✓" : i + 1}
              </span>
              <span className={k === lead.next ? "font-semibold" : "text-ink-2"}>
                {s.word}
                <span className="sr-only">{done ? ", done" : k === lead.next ? ", next" : ""}</span>
              </span>
            </li>
          );
        })}
      </ol>
      <p className="max-w-[46ch] font-title text-display leading-tight">{step.says(lead.name)}</p>
      <div className="mt-6 flex flex-wrap items-center gap-3">
        <Link to={lead.link} className="btn inline-flex items-center">
          {step.button}
        </Link>
        {me.may("owner") && (
          <button type="button" className="btn-quiet" disabled={busy} onClick={leave}>
            I know my way
          </button>
        )}
        {wrong && (
          <span role="alert" className="text-note font-semibold text-beet">
            {wrong}
          </span>
        )}
      </div>
    </section>
  );
}
