import { fieldMessage, type Schemas } from "../../api/client";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import { codeOfWord, wordOfCode } from "../allergens/marked";
import { Block } from "./Block";
import { Codes, type Edited, SupplierList, Typed } from "./ingredientFields";

/** What the label says of it: names, the supplier's list, allergens. */
export function OnTheLabel({ view, draft, problem, set }: Edited & { view: Schemas["IngredientView"] }) {
  const { shop } = useFormats();
  return (
    <Block title="On the label">
      <div className="grid grid-cols-3 gap-3">
        <Typed of="name" label="Name in the pantry" {...{ view, draft, problem, set }} />
        {shop.laws.map((l) => {
          const law = l.regime.toLowerCase();
          const own = draft.label_names[law] ?? "";
          return (
            <TextField
              key={`${law}${view.label_names[law] ?? ""}`}
              label={`${l.title} declaration name`}
              defaultValue={own}
              placeholder={draft.name.toLowerCase()}
              error={fieldMessage(problem, `label_names.${law}`)}
              onBlur={(e) => e.target.value !== own && set({ label_names: { ...draft.label_names, [law]: e.target.value } })}
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
          );
        })}
      </div>
      <div className="mt-3 grid grid-cols-2 gap-3">
        {shop.laws.map((l, i) => {
          const law = l.regime.toLowerCase();
          return (
            <SupplierList
              key={law}
              label={i === 0 ? `Supplier's ingredient list, ${l.title} wording` : `the same in ${l.title} wording, where it differs`}
              value={draft.supplier_lists?.[law] ?? ""}
              error={fieldMessage(problem, `supplier_lists.${law}`)}
              onSave={(list) => set({ supplier_lists: { ...draft.supplier_lists, [law]: list } })}
            />
          );
        })}
      </div>
      <div className="mt-3 grid grid-cols-3 gap-3">
        {shop.laws.map((l) => {
          const law = l.regime.toLowerCase();
          return (
            <Codes
              key={law}
              label={`Allergens, ${l.title}`}
              hint="in words, comma between: milk, egg, walnut"
              value={(draft.allergens[law] ?? []).map((code) => wordOfCode(code, law, shop.ticks))}
              error={fieldMessage(problem, `allergens.${law}`)}
              onSave={(said) => set({ allergens: { ...draft.allergens, [law]: said.map((w) => codeOfWord(w, law, shop.ticks)) } })}
            />
          );
        })}
        <NumberField
          late
          label={say("sulphites")}
          unit="mg/kg"
          allowEmpty
          hint="empty: not known, counts as above 10"
          value={draft.sulphites_mg_kg ?? null}
          error={fieldMessage(problem, "sulphites_mg_kg")}
          onValue={(n) => set({ sulphites_mg_kg: n })}
        />
      </div>
      <p className="mt-2 text-note text-ink-2">
        Words in a name or a list that name an allergen count too, ticked or not, under every law that has it.
      </p>
    </Block>
  );
}
