import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../api/client";
import { refreshMeasure, useIngredients } from "../api/queries/pantry";
import { spread } from "../places/reader/roles";
import { wordOr } from "../tongue/words";
import { Modal, TextField } from "./form";
import { NumberField } from "./number";
import { useFormats } from "./shop";
import { toast } from "./toast";

const SAID: Record<string, string> = {
  jar_drained: "jar, drained",
  juice_of_one: "juice of one",
  zest_of_one: "zest of one",
};

/** tbsp_heaping as people say it. */
export function measureWords(name: string): string {
  if (SAID[name]) return SAID[name];
  const listed = wordOr(name);
  if (listed !== name) return listed;
  if (name === "fl_oz") return "fluid ounce";
  const [unit, ...rest] = name.split("_");
  return [...rest, unit].join(" ");
}

/**
 * Weigh your own: three weighings or more of one spoon, clove or handful. The mean, its spread and the count show while
 * they are typed.
 */
export function MeasureDialog({
  ingredient,
  name: called,
  measure,
  have,
  typical,
  onClose,
  onSaved,
}: {
  ingredient: string;
  name: string;
  measure: string;
  have?: number[];
  typical?: number;
  onClose: () => void;
  onSaved?: (v: Schemas["IngredientView"]) => void;
}) {
  const { num } = useFormats();
  const client = useQueryClient();
  const pantry = useIngredients();
  const name = pantry.data?.find((g) => g.id === ingredient)?.name ?? called; // what is weighed may be what the line was made from
  const [word, setWord] = useState(measure);
  const [list, setList] = useState<(number | null)[]>(have && have.length >= 3 ? have : [null, null, null]);
  const [note, setNote] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const given = list.filter((g): g is number => g !== null);
  const s = spread(given);
  const save = async () => {
    try {
      const v = await take(
        api.PUT("/ingredients/{id}/measures/{measure}", {
          params: { path: { id: ingredient, measure: word.trim().toLowerCase().replace(/\s+/g, "_") } },
          body: { weighings: given, note },
        }),
      );
      await refreshMeasure(client, v);
      toast(`Your own ${measureWords(word)} of ${name} counts from now on.`);
      onSaved?.(v);
      onClose();
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  return (
    <Modal
      open
      onClose={onClose}
      title={measure ? `${name}: weigh your own ${measureWords(measure)}` : `${name}: weigh a measure of yours`}
      width={470}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        {!measure && (
          <TextField
            className="mb-3"
            label="What do you measure with?"
            hint="one word as the reader has it: tbsp, tbsp_heaping, clove, clove_large, handful, cup_packed, pinch, splash"
            value={word}
            onChange={(e) => setWord(e.target.value)}
            error={fieldMessage(problem, "measure")}
          />
        )}
        <p className="mb-2 text-note text-ink-2">
          Three times or more, the way you always do it, each on an empty scale.
          {typical ? ` Typical is ${num(typical, typical < 1 ? 2 : 1)} g.` : ""}
        </p>
        <div className="grid grid-cols-4 gap-3">
          {list.map((g, i) => (
            <NumberField
              // biome-ignore lint/suspicious/noArrayIndexKey: weighings have no identity but their place
              key={i}
              label={`Weighing ${i + 1}`}
              unit="g"
              allowEmpty
              autoFocus={i === 0 && !!measure}
              value={g}
              error={fieldMessage(problem, `weighings[${i}]`)}
              onValue={(n) => setList(list.map((x, k) => (k === i ? n : x)))}
            />
          ))}
          {list.length < 12 && (
            <button type="button" className="btn-quiet self-end" onClick={() => setList([...list, null])}>
              Once more
            </button>
          )}
        </div>
        <div className="mt-3 flex items-baseline gap-3 border-t border-rule pt-3">
          <b className="text-display leading-none font-semibold">{s ? num(s.mean, 1) : "–"}</b>
          <span className="text-ink-2">
            g, {s ? `± ${num(s.percent, 1)} %` : "weigh it"}, {given.length} {given.length === 1 ? "weighing" : "weighings"}
          </span>
        </div>
        <TextField
          className="mt-3"
          label="Note"
          value={note}
          maxLength={200}
          placeholder="the bent steel spoon"
          onChange={(e) => setNote(e.target.value)}
        />
        {problem && (
          <p role="alert" className="mt-2 text-note font-semibold text-beet">
            {fieldMessage(problem, "weighings") || problem.title}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn-quiet" onClick={onClose}>
            Not now
          </button>
          <button type="submit" className="btn" disabled={given.length < 3 || !word.trim()}>
            Let it count
          </button>
        </div>
      </form>
    </Modal>
  );
}
