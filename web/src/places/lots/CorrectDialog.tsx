import * as z from "zod/mini";
import type { Schemas } from "../../api/client";
import { DateField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { AreaField, Foot, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { figure, words } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { say } from "../../tongue/words";
import type { NewLotEntry } from "./acts";

const schema = z.object({
  ingredient: words,
  supplier: words,
  day: words,
  text: words,
  pack: words,
  ends: words,
  end_kind: words,
  cost: figure,
  arrival_c: figure,
  limit_c: figure,
  statement: words,
  strength: figure,
  ph: figure,
  list: words,
  note: words,
  why: words,
});

/** The server names each field within the correction; the reason has a name of its own. */
const names = Object.fromEntries(Object.keys(schema.shape).map((f) => [f, [`corrected.${f === "why" ? "reason" : f}`]]));

/** What is known of a lot as it should have been typed; what stood before stays on record. */
export function CorrectDialog({ v, act, onClose }: { v: Schemas["LotView"]; act: (e: NewLotEntry) => Promise<void>; onClose: () => void }) {
  const x = v.record.came_in;
  const entry = useEntry({
    schema,
    start: {
      ingredient: x.ingredient,
      supplier: x.supplier,
      day: x.day,
      text: x.text,
      pack: x.pack,
      ends: x.ends ?? "",
      end_kind: x.end_kind ?? "",
      cost: x.cost ?? null,
      arrival_c: x.arrival_c ?? null,
      limit_c: x.limit_c ?? null,
      statement: x.statement ?? "",
      strength: x.strength ?? null,
      ph: x.ph ?? null,
      list: x.list ?? "",
      note: x.note ?? "",
      why: "",
    },
    names,
    send: async (corrected) => {
      await act({ kind: "corrected", corrected });
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={`Correct ${v.code}`} width={680}>
      <form {...entry.form}>
        <p className="mb-3 text-body text-ink-2">
          What was typed wrong. Batches that took of it are judged anew; what loosens anything takes an owner.
        </p>
        <div className="grid grid-cols-3 gap-3 max-phone:grid-cols-2">
          <TextField label="Supplier" {...entry.text("supplier")} />
          <TextField label="Their lot" {...entry.text("text")} />
          <TextField label="How much" {...entry.text("pack")} />
          <DateField label="Came in on" {...entry.pick("day")} />
          <DateField label="Ends" {...entry.pick("ends")} />
          <SelectField
            label="The end is a"
            options={[
              ["", "as usual for it"],
              ["use_by", say("use_by")],
              ["best_before", say("best_before")],
            ]}
            {...entry.pick("end_kind")}
          />
          <NumberField label="Cost of all of it" allowEmpty {...entry.pick("cost")} />
          <NumberField label="On arrival" unit="°C" reason={COLD} allowEmpty {...entry.pick("arrival_c")} />
          <NumberField label="at most" unit="°C" reason={COLD} allowEmpty {...entry.pick("limit_c")} />
          <TextField label="Kill-step statement" {...entry.text("statement")} />
          <NumberField label="Acid on the packet" unit="g/100 mL" allowEmpty {...entry.pick("strength")} />
          <NumberField label="pH on the packet" allowEmpty {...entry.pick("ph")} />
        </div>
        <div className="mt-3 grid gap-3">
          <AreaField label="List of ingredients as printed" rows={2} {...entry.text("list")} />
          <TextField label="What was wrong; it stays on record" {...entry.text("why")} />
        </div>
        <Foot problem={entry.rest()} onLeave={onClose}>
          Put it right
        </Foot>
      </form>
    </Modal>
  );
}

/** A delivery outside of these degrees Celsius is asked about. */
const COLD = [-30, 30] as const;
