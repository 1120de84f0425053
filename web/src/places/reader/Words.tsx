import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { refreshWords, useDropWord, useWords } from "../../api/queries/reader";
import { ChooseIngredient } from "../../parts/choose";
import { Modal, TextField } from "../../parts/form";
import { Segmented } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { useAct } from "../../saving/act";
import { say } from "../../tongue/words";
import { meaning, type Word } from "./words";

/** What the shop has told the reader once and for all, and the way to tell it more or to take it back. */
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
      {telling && <Tell onClose={() => setTelling(false)} />}
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

type Kind = "name" | "volume" | "pack";

const MEASURES = [
  ["spoon", "spoon"],
  ["glass", "glass"],
  ["mug", "mug"],
  ["scoop", "scoop"],
  ["ladle", "ladle"],
  ["teacup", "teacup"],
  ["eggcup", "eggcup"],
] as const;

/** Tells the reader a word, as a sentence with gaps. */
function Tell({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const [kind, setKind] = useState<Kind>("name");
  const [words, setWords] = useState("");
  const [thing, setThing] = useState({ id: "", name: "" });
  const [unit, setUnit] = useState("spoon");
  const [size, setSize] = useState("");
  const [pack, setPack] = useState("can");
  const [amount, setAmount] = useState<number | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [tell, busy] = useAct(async () => {
    const body =
      kind === "name"
        ? { kind, words, ingredient: thing.id }
        : kind === "volume"
          ? { kind, unit, size, ml: amount ?? 0 }
          : { kind, unit: pack, ingredient: thing.id, grams: amount ?? 0 };
    try {
      await refreshWords(client, await take(api.POST("/words", { body })));
      onClose();
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  const kinds = [
    ["name", "a name"],
    ["volume", "a spoon or glass"],
    ["pack", `a ${say("tin")} or jar`],
  ] as const;
  const wrong = (field: string) => (problem ? fieldMessage(problem, field) : "");
  const choose = (
    <div>
      <ChooseIngredient label="What it is" className="btn-line min-w-45 justify-start" onChoose={(id, name) => setThing({ id, name })}>
        {thing.name || "choose from the pantry …"}
      </ChooseIngredient>
      {wrong("ingredient") && <p className="mt-1 text-note text-beet">{wrong("ingredient")}</p>}
    </div>
  );
  return (
    <Modal open onClose={onClose} title="Tell the reader a word of yours" width={560}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void tell();
        }}
      >
        <Segmented label="What kind of word" value={kind} onChange={(k) => setKind(k)} options={kinds} />
        <div className="mt-4 flex flex-wrap items-end gap-3 text-lead">
          {kind === "name" && (
            <>
              <TextField
                label="When we say"
                autoFocus
                maxLength={80}
                placeholder="our green paste"
                value={words}
                onChange={(e) => setWords(e.target.value)}
                error={wrong("words")}
              />
              <span className="pb-2">we mean</span>
              {choose}
            </>
          )}
          {kind === "volume" && (
            <>
              <SelectField
                label="Our"
                className="w-27.5"
                value={size}
                onValue={setSize}
                options={[
                  ["", "usual"],
                  ["small", "small"],
                  ["large", "large"],
                ]}
              />
              <SelectField label="measure" className="w-30" value={unit} onValue={setUnit} options={MEASURES} error={wrong("unit")} />
              <span className="pb-2">holds</span>
              <NumberField label="mL" className="w-27.5" allowEmpty value={amount} onValue={setAmount} error={wrong("ml")} />
            </>
          )}
          {kind === "pack" && (
            <>
              <SelectField
                label="A"
                className="w-27.5"
                value={pack}
                onValue={setPack}
                options={[
                  ["can", say("tin")],
                  ["jar", "jar"],
                  ["packet", "packet"],
                ]}
              />
              <span className="pb-2">of</span>
              {choose}
              <span className="pb-2">is</span>
              <NumberField label="g" className="w-27.5" allowEmpty value={amount} onValue={setAmount} error={wrong("grams")} />
            </>
          )}
        </div>
        {problem && problem.fields.length === 0 && (
          <p role="alert" className="mt-3 font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-5 flex justify-end gap-2">
          <button type="button" className="btn-quiet" onClick={onClose}>
            Not now
          </button>
          <button type="submit" className="btn" disabled={busy}>
            Remember it
          </button>
        </div>
      </form>
    </Modal>
  );
}
