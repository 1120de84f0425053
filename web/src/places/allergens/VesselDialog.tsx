import { useQueryClient } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshVessels } from "../../api/queries/allergens";
import { useEntry } from "../../parts/entry";
import { Foot, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { figure, words } from "../../parts/schema";

const schema = z.object({ name: words, least_g: figure, greatest_g: figure, residue_g: figure });

/** A vessel's name and what it works with; a new one where none is given. */
export function VesselDialog({ of, onClose }: { of?: Schemas["VesselView"]; onClose: () => void }) {
  const client = useQueryClient();
  const entry = useEntry({
    schema,
    start: { name: of?.name ?? "", least_g: of?.least_g || null, greatest_g: of?.greatest_g || null, residue_g: of?.residue_g || null },
    send: async ({ name, least_g, greatest_g, residue_g }) => {
      const works = { name, least_g: least_g ?? 0, greatest_g: greatest_g ?? 0, residue_g: residue_g ?? 0 };
      if (of) {
        const { carries: _c, entries: _e, ...vessel } = of;
        await take(api.PUT("/vessels/{id}", { params: { path: { id: of.id }, query: {} }, body: { ...vessel, ...works } }));
      } else await take(api.POST("/vessels", { body: works }));
      await refreshVessels(client);
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={of ? of.name : "A vessel that products share"} width={460}>
      <form {...entry.form}>
        <TextField label="Its name, as it stands on it" autoFocus placeholder="Blender jug 2" {...entry.text("name")} />
        <div className="mt-3 grid grid-cols-3 gap-3">
          <NumberField label="Blades catch from" unit="g" allowEmpty {...entry.pick("least_g")} />
          <NumberField label="Takes at most" unit="g" allowEmpty {...entry.pick("greatest_g")} />
          <NumberField label="Stays in it" unit="g" allowEmpty {...entry.pick("residue_g")} />
        </div>
        <p className="mt-2 text-note text-ink-2">
          Weigh it empty, with what it just mixes well, and with as much as it takes; what stays when it is scraped out counts as lost.
        </p>
        <Foot problem={entry.rest()} onLeave={onClose}>
          {of ? "Keep it" : "Add it"}
        </Foot>
      </form>
    </Modal>
  );
}
