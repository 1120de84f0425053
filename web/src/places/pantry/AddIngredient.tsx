import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshPantry } from "../../api/queries/pantry";
import { useEntry } from "../../parts/entry";
import { Check, Foot, Modal, TextField } from "../../parts/form";
import { said } from "../../parts/schema";

const schema = z.object({ name: said("give it a name"), pack: z.boolean() });

/** An ingredient of which nothing but its name is known yet. */
const bare = (name: string, pack: boolean): Schemas["Ingredient"] => ({
  id: "",
  name,
  role: pack ? "packaging" : undefined,
  label_names: {},
  acids: {},
  ph: null,
  buffer_mmol_kg_ph: 0,
  typical: false,
  allergens: {},
  flags: [],
  offers: [],
  composition: {
    water: 0,
    protein: 0,
    fat: 0,
    saturates: 0,
    trans: 0,
    carbohydrate: 0,
    sugars: 0,
    fibre: 0,
    alcohol: 0,
    sodium_mg: 0,
    cholesterol_mg: 0,
    calcium_mg: 0,
    iron_mg: 0,
    potassium_mg: 0,
    vitamin_d_ug: 0,
  },
});

/** A new ingredient, or a part of the pack, by its name; the rest is told on its page. */
export function AddIngredient({ called, onClose }: { called: string; onClose: () => void }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const entry = useEntry({
    schema,
    start: { name: called, pack: false },
    send: async ({ name, pack }) => {
      const g = await take(api.POST("/ingredients", { body: bare(name, pack) }));
      await refreshPantry(client);
      onClose();
      navigate(`/pantry/${g.id}`);
    },
  });
  const { name, pack } = entry.values;
  return (
    <Modal open onClose={onClose} title="Add an ingredient" width={440}>
      <form {...entry.form}>
        <TextField
          label="What do you call it?"
          autoFocus
          hint={pack ? "Its prices come on its page, by the piece." : "Composition, acidity, allergens and prices come on its page."}
          {...entry.text("name")}
        />
        <div className="mt-3">
          <Check label="A part of the pack: a jar, a lid, a label, a case" {...entry.tick("pack")} />
        </div>
        <Foot problem={entry.rest()} onLeave={onClose} disabled={entry.busy || !name.trim()}>
          Open its page
        </Foot>
      </form>
    </Modal>
  );
}
