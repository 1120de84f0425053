import { fieldMessage, type Schemas } from "../../api/client";
import { Check } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { wordOr } from "../../tongue/words";
import { Block } from "./Block";
import { type Edited, PhRange } from "./ingredientFields";

type Composition = Schemas["Composition"];

const COMPOSITION: [keyof Composition, string, string][] = [
  ["water", "Water", "g"],
  ["protein", "Protein", "g"],
  ["fat", "Fat", "g"],
  ["saturates", "Saturates", "g"],
  ["carbohydrate", "Carbohydrate", "g"],
  ["sugars", "Sugars", "g"],
  ["hexose", "of them hexose", "g"],
  ["fibre", "fibre", "g"],
  ["alcohol", "Alcohol", "g"],
  ["sodium_mg", "Sodium", "mg"],
  ["trans", "Trans fat", "g"],
  ["cholesterol_mg", "Cholesterol", "mg"],
  ["calcium_mg", "Calcium", "mg"],
  ["iron_mg", "Iron", "mg"],
  ["potassium_mg", "Potassium", "mg"],
  ["vitamin_d_ug", "Vitamin D", "µg"],
];

/** What 100 g of it are made of. */
export function MadeOf({ draft, problem, set }: Edited) {
  return (
    <Block title="Made of, in 100 g">
      <div className="grid grid-cols-5 gap-x-4 gap-y-2">
        {COMPOSITION.map(([k, name, unit]) => (
          <NumberField
            late
            key={k}
            label={wordOr(name)}
            unit={unit}
            value={draft.composition[k] ?? 0}
            error={fieldMessage(problem, `composition.${k}`)}
            onValue={(n) => set({ composition: { ...draft.composition, [k]: n ?? 0 } })}
          />
        ))}
      </div>
    </Block>
  );
}

const ACIDS = ["acetic", "citric", "malic", "lactic", "tartaric"] as const;

/** What an estimate of the pH needs to know of it. */
export function Acidity({ draft, problem, set }: Edited) {
  return (
    <Block title="Acidity">
      <div className="grid grid-cols-5 gap-x-4 gap-y-2">
        {ACIDS.map((k) => (
          <NumberField
            late
            key={k}
            label={`${k[0].toUpperCase()}${k.slice(1)} acid`}
            unit="g in 100 g"
            value={draft.acids[k] ?? 0}
            error={fieldMessage(problem, `acids.${k}`)}
            onValue={(n) => set({ acids: { ...draft.acids, [k]: n ?? 0 } })}
          />
        ))}
        <PhRange value={draft.ph} error={fieldMessage(problem, "ph")} onSave={(ph) => set({ ph })} />
        <NumberField
          late
          label="Other buffering"
          unit="mmol/kg/pH"
          value={draft.buffer_mmol_kg_ph}
          error={fieldMessage(problem, "buffer_mmol_kg_ph")}
          onValue={(n) => set({ buffer_mmol_kg_ph: n ?? 0 })}
        />
        <SelectField
          label="In the balance"
          value={draft.chemistry ?? ""}
          options={[
            ["", "by its own pH"],
            ["pure_acid", "pure acid"],
            ["water", "water"],
            ["baking_soda", "baking soda"],
            ["sorbate_salt", "potassium sorbate"],
            ["benzoate_salt", "sodium benzoate"],
            ["no_water_phase", "no water phase"],
          ]}
          onValue={(chosen) => set({ chemistry: chosen })}
        />
      </div>
      {!draft.ph && draft.composition.water > 15 && !draft.chemistry && (
        <div className="mt-3">
          <Caution level="needs_you" title="No pH known.">
            Estimates with this ingredient are incomplete: anything from 4.0 to 7.0 is allowed for.
          </Caution>
        </div>
      )}
    </Block>
  );
}

const FLAGS: [string, string][] = [
  ["compound", "compound"],
  ["water", "plain water"],
  ["refined_oil", "highly refined oil"],
  ["virgin_oil", "unrefined oil"],
  ["salt", "salt"],
  ["sugar", "sugar"],
  ["acidulant", "sours"],
  ["spice_group", "spice"],
  ["colouring_spice", "colouring_spice"],
  ["raw_herb", "raw herb"],
  ["raw_allium", "raw garlic or onion"],
  ["raw_vegetable", "raw vegetable"],
  ["cooked_vegetable", "cooked vegetable"],
  ["cooked_legume", "cooked pulse"],
  ["canned_low_acid", "opened_can"],
  ["fresh_dairy", "fresh dairy"],
  ["soft_cheese", "soft cheese"],
  ["hard_cheese", "hard cheese"],
  ["pasteurised_egg", "pasteurised_egg"],
  ["raw_egg", "raw_egg"],
  ["nut_or_seed", "nut or seed"],
  ["processing_aid", "processing aid"],
];

/** What rules ask of an ingredient, ticked. */
export function Flags({ draft, set }: Pick<Edited, "draft" | "set">) {
  return (
    <Block title="What rules look at">
      <div className="grid grid-cols-4">
        {FLAGS.map(([k, name]) => (
          <Check
            key={k}
            label={wordOr(name)}
            checked={draft.flags.includes(k)}
            onChange={(on) => set({ flags: on ? [...draft.flags, k] : draft.flags.filter((f) => f !== k) })}
          />
        ))}
      </div>
    </Block>
  );
}
