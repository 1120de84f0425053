import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { useIngredients } from "../../api/queries/pantry";
import { refreshPreparations } from "../../api/queries/preparations";
import { ChooseIngredient } from "../../parts/choose";
import { AreaField, Check, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { WhyDialog } from "../../parts/why";
import type { PreparationData } from "./ways";

type Step = Schemas["Preparation"];

const BLANK: Step = {
  id: "",
  name: "",
  input: "",
  output: "",
  yield_percent: 80,
  spread_percent: 8,
  labour_min_per_kg: 10,
  wait_min: 0,
  typical: false,
};

/** What a step is: what goes in, what comes out beside what, how long, and what else goes into the pan. */
export function StepEditor({
  step,
  onClose,
  onSaved,
}: {
  step?: PreparationData;
  onClose: () => void;
  onSaved: (p: PreparationData) => void;
}) {
  const client = useQueryClient();
  const names = useIngredients();
  const [s, setS] = useState<Step>(step ? plain(step) : BLANK);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [losing, setLosing] = useState<Problem | null>(null);
  const nameOf = (id?: string) => names.data?.find((g) => g.id === id)?.name ?? id ?? "";
  const set = (c: Partial<Step>) => setS({ ...s, ...c });
  const e = (f: string) => fieldMessage(problem, f);
  const save = async (why?: string) => {
    try {
      const v = step
        ? await take(api.PUT("/preparations/{id}", { params: { path: { id: step.id }, query: { rev: step.rev, why } }, body: s }))
        : await take(api.POST("/preparations", { body: s }));
      await refreshPreparations(client);
      onSaved(v);
    } catch (x) {
      const p = problemOf(x);
      if (why) throw x;
      if (p.code === "loses") setLosing(p);
      else setProblem(p);
    }
  };
  const pick = (field: "input" | "output" | "co_output", label: string, empty: string) => (
    <div>
      <span className="mb-1 block text-note text-ink-2">{label}</span>
      <ChooseIngredient label={label} className="field truncate text-left" onChoose={(id) => set({ [field]: id })}>
        {s[field] ? nameOf(s[field]) : <span className="text-ink-3">{empty}</span>}
      </ChooseIngredient>
      {e(field) && (
        <p role="alert" className="mt-1 text-note font-semibold text-beet">
          {e(field)}
        </p>
      )}
    </div>
  );
  const extras = s.extras ?? [];
  return (
    <Modal open onClose={onClose} title={step ? "Change the step" : "A step of yours"} width={680}>
      <form
        onSubmit={(x) => {
          x.preventDefault();
          void save();
        }}
      >
        <div className="grid grid-cols-3 gap-4">
          {pick("input", "Goes in", "choose what goes in")}
          <TextField
            label="What is done"
            value={s.name.replaceAll("_", " ")}
            maxLength={80}
            placeholder="char and peel"
            onChange={(x) => set({ name: x.target.value })}
            error={e("name")}
          />
          {pick("output", "Comes out", "choose what comes out")}
          <NumberField
            label="Yield"
            unit="% of what goes in"
            value={s.yield_percent}
            reason={/soak|boil|cook|sprout|hydrat/.test(s.name) ? [0, 400] : [0, 115]}
            onValue={(n) => set({ yield_percent: n ?? 0 })}
            error={e("yield_percent")}
          />
          <NumberField
            label="Spread"
            unit="% of the yield"
            value={s.spread_percent}
            onValue={(n) => set({ spread_percent: n ?? 0 })}
            error={e("spread_percent")}
          />
          <div />
          <NumberField
            label="Hands on"
            unit="min a kg"
            value={s.labour_min_per_kg}
            onValue={(n) => set({ labour_min_per_kg: n ?? 0 })}
            error={e("labour_min_per_kg")}
          />
          <NumberField
            label="Oven, soaking, draining"
            unit="min"
            value={s.wait_min}
            onValue={(n) => set({ wait_min: n ?? 0 })}
            error={e("wait_min")}
          />
          <div />
          {pick("co_output", "Comes out beside it", "nothing")}
          <NumberField
            label="Of that"
            unit="% of what goes in"
            allowEmpty
            value={s.co_yield_percent ?? null}
            onValue={(n) => set({ co_yield_percent: n ?? undefined })}
            error={e("co_yield_percent")}
          />
          <NumberField
            label="It carries"
            unit="% of the cost"
            allowEmpty
            value={s.co_cost_share_percent ?? null}
            onValue={(n) => set({ co_cost_share_percent: n ?? undefined })}
            error={e("co_cost_share_percent")}
          />
        </div>
        {s.co_output && (
          <button
            type="button"
            className="btn-quiet mt-1"
            onClick={() => set({ co_output: undefined, co_yield_percent: undefined, co_cost_share_percent: undefined })}
          >
            Nothing comes out beside it
          </button>
        )}
        <fieldset className="mt-4 border-t border-rule pt-3">
          <legend className="phase text-body">What else goes into the pan</legend>
          {extras.map((x, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: extras have no identity but their place
            <div key={i} className="mt-2 grid grid-cols-[minmax(0,1fr)_110px_110px_120px_70px] items-end gap-3">
              <div>
                <span className="mb-1 block text-note text-ink-2">Ingredient</span>
                <ChooseIngredient
                  label={`Extra ${i + 1}`}
                  className="field truncate text-left"
                  onChoose={(id) => set({ extras: extras.map((y, k) => (k === i ? { ...y, ingredient: id } : y)) })}
                >
                  {nameOf(x.ingredient) || "choose"}
                </ChooseIngredient>
              </div>
              <NumberField
                label="For 100 g"
                unit="g"
                value={x.grams_per_100g}
                onValue={(n) => set({ extras: extras.map((y, k) => (k === i ? { ...y, grams_per_100g: n ?? 0 } : y)) })}
                error={e(`extras[${i}].grams_per_100g`)}
              />
              <NumberField
                label="Stays in"
                unit="%"
                value={x.uptake_percent}
                onValue={(n) => set({ extras: extras.map((y, k) => (k === i ? { ...y, uptake_percent: n ?? 0 } : y)) })}
                error={e(`extras[${i}].uptake_percent`)}
              />
              <NumberField
                label="Stays beside it"
                unit="%"
                value={x.co_uptake_percent ?? 0}
                disabled={!s.co_output}
                onValue={(n) => set({ extras: extras.map((y, k) => (k === i ? { ...y, co_uptake_percent: n ?? 0 } : y)) })}
                error={e(`extras[${i}].co_uptake_percent`)}
              />
              <button type="button" className="btn-quiet" onClick={() => set({ extras: extras.filter((_, k) => k !== i) })}>
                Take out
              </button>
            </div>
          ))}
          <button
            type="button"
            className="btn-quiet"
            onClick={() => set({ extras: [...extras, { ingredient: "", grams_per_100g: 4, uptake_percent: 100 }] })}
          >
            Oil, salt, water …
          </button>
          <p className="text-note text-ink-2">
            Only what stays in counts in the cost and stands in the list. Allergens and hazards of all that goes in pass on to all that
            comes out.
          </p>
        </fieldset>
        <AreaField
          className="mt-3"
          label="What to look for"
          rows={2}
          maxLength={500}
          value={s.look_for ?? ""}
          onChange={(x) => set({ look_for: x.target.value })}
          error={e("look_for")}
        />
        <div className="mt-2">
          <Check
            label="This is the way we make it: its cost counts before a price of its own"
            checked={!!s.preferred}
            onChange={(preferred) => set({ preferred })}
          />
        </div>
        {problem && (
          <p role="alert" className="mt-2 text-note font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn-quiet" onClick={onClose}>
            Leave it
          </button>
          <button type="submit" className="btn">
            Keep the step
          </button>
        </div>
      </form>
      <WhyDialog
        open={!!losing}
        title="Something is taken off"
        text={losing?.title}
        button="Take it off"
        act={(why) => save(why)}
        onClose={() => setLosing(null)}
      />
    </Modal>
  );
}

/** Strips what the server adds to the step itself. */
function plain(v: PreparationData): Step {
  const {
    rev: _r,
    input_name: _i,
    output_name: _o,
    co_output_name: _c,
    expected: _e,
    in_per_kg: _a,
    out_per_kg: _b,
    co_per_kg: _d,
    ...rest
  } = v;
  return rest;
}
