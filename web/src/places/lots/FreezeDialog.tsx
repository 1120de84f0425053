import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { DateField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { Foot, Modal } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { needed, said } from "../../parts/schema";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";

const schema = z.object({ grams: needed("how many grams?"), day: said("on which day?") });

/** A part of a lot becomes a frozen lot of its own. */
export function FreezeDialog({ v, onClose }: { v: Schemas["LotView"]; onClose: () => void }) {
  const { num } = useFormats();
  const client = useQueryClient();
  const navigate = useNavigate();
  const entry = useEntry({
    schema,
    start: { grams: null, day: today() },
    send: async (body) => {
      const part = await take(api.POST("/lots/{id}/parts", { params: { path: { id: v.id } }, body }));
      await refreshAll(client);
      onClose();
      navigate(`/lots/${part.id}`);
    },
  });
  return (
    <Modal open onClose={onClose} title={`Freeze a part of ${v.code}`} width={460}>
      <form {...entry.form}>
        <p className="mb-3 text-body text-ink-2">
          The part gets a code and a sticker of its own. Its clock stops on the day it is frozen, at or below -18 °C, and goes on when it is
          thawed.
        </p>
        <div className="grid grid-cols-2 gap-3">
          <NumberField label={`How much (of ${num(v.on_hand_g, 1)} g)`} unit="g" autoFocus {...entry.pick("grams")} />
          <DateField label="Frozen on" max={today()} {...entry.pick("day")} />
        </div>
        <Foot problem={entry.rest()} onLeave={onClose}>
          Freeze it
        </Foot>
      </form>
    </Modal>
  );
}
