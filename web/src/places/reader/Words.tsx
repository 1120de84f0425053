import { useState } from "react";
import { useDropWord, useWords } from "../../api/queries/reader";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { say } from "../../tongue/words";
import { TellWord } from "./TellWord";
import { meaning, type Word } from "./words";

/** What the shop has told the reader for good, and the way to add to it or take it back. */
export function Words() {
  const words = useWords().data ?? [];
  const { num, moment } = useFormats();
  const drop = useDropWord();
  const [telling, setTelling] = useState(false);
  const [going, setGoing] = useState<Word | null>(null);
  return (
    <section aria-label="What your words mean" className="mt-6">
      <h2 className="phase mb-1 flex items-baseline justify-between text-lead">
        What your words mean
        <button
          type="button"
          className="min-h-7 px-1 font-text text-note font-semibold text-cobalt not-italic hover:underline"
          onClick={() => setTelling(true)}
        >
          tell it a word
        </button>
      </h2>
      {words.length === 0 && (
        <p className="text-body text-ink-2">
          Nothing yet. What you answer in a reading and will mean again is kept here: what a {say("tin")} holds, which spoon is yours, what
          you call a thing.
        </p>
      )}
      <ul>
        {words.map((w) => (
          <li key={w.id} className="flex items-baseline gap-2 border-b border-rule-soft py-1.5 text-body">
            <span className="min-w-0 flex-1 font-title">{meaning(w, num)}</span>
            <span className="shrink-0 text-note text-ink-3">
              {w.by}, {moment(w.at)}
            </span>
            <button
              type="button"
              aria-label={`Take back: ${meaning(w, num)}`}
              className="min-h-7 shrink-0 px-1 text-note text-ink-3 hover:text-beet"
              onClick={() => setGoing(w)}
            >
              take back
            </button>
          </li>
        ))}
      </ul>
      {telling && <TellWord onClose={() => setTelling(false)} />}
      <WhyDialog
        open={!!going}
        title="Take it back?"
        text="The reader asks about it again. Drafts that were made stay as they are."
        button="Take it back"
        act={(why) => drop(going?.id ?? 0, why)}
        onClose={() => setGoing(null)}
      />
    </section>
  );
}
