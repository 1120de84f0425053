import { useQueryClient } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshVessels } from "../../api/queries/allergens";
import { useEntry } from "../../parts/entry";
import { Check, Foot, Modal, TextField } from "../../parts/form";
import { words } from "../../parts/schema";
import { useFormats } from "../../parts/shop";
import { joined } from "./marked";

const schema = z.object({ what: words, on: z.array(z.string()) });

/** A vessel was cleaned down, or something was in it that no batch tells. */
export function NoteTurn({ v, kind, onClose }: { v: Schemas["VesselView"]; kind: "used" | "cleaned"; onClose: () => void }) {
  const { shop } = useFormats();
  const client = useQueryClient();
  const entry = useEntry({
    schema,
    start: { what: kind === "cleaned" ? "hot water and detergent, rinsed, dried" : "", on: [] },
    send: async ({ what, on }) => {
      const ticks = shop.ticks.filter((t) => on.includes(t.word));
      await take(
        api.POST("/vessels/{id}/turns", {
          params: { path: { id: v.id } },
          body: { kind, what, allergens: kind === "used" ? joined({}, ticks) : undefined },
        }),
      );
      await refreshVessels(client);
      onClose();
    },
  });
  const { on } = entry.values;
  return (
    <Modal open onClose={onClose} title={kind === "cleaned" ? `${v.name} was cleaned down` : `What was in ${v.name}?`}>
      <form {...entry.form}>
        <TextField
          label={kind === "cleaned" ? "How" : "What it was; a batch of yours is written down on its own page"}
          autoFocus
          {...entry.text("what")}
        />
        {kind === "used" && (
          <fieldset className="mt-3 grid grid-cols-3 gap-x-3">
            <legend className="text-note text-ink-2">with these in it</legend>
            {shop.ticks.map((t) => (
              <Check
                key={t.word}
                label={t.word}
                checked={on.includes(t.word)}
                onChange={(yes) => entry.set("on", yes ? [...on, t.word] : on.filter((w) => w !== t.word))}
              />
            ))}
          </fieldset>
        )}
        <Foot problem={entry.rest()} onLeave={onClose}>
          Write it down
        </Foot>
      </form>
    </Modal>
  );
}
