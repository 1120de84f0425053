import * as z from "zod/mini";
import { accepted } from "../../api/client";
import { useParties } from "../../api/queries/parties";
import { useEntry } from "../../parts/entry";
import { Foot, Modal, TextField } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { needed, words } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { type JarsAt, placeWord, waysFrom } from "./jarPlaces";
import type { BatchData, Write } from "./record";

const schema = z
  .object({ to: words, jars: needed("how many jars?"), party: words, reason: words })
  .check(z.refine((t) => t.to !== "with" || t.party !== "", { path: ["party"], error: "with whom?" }));

/** Jars go to another place, or come back from somebody. */
export function MoveJars({ b, from, write, onClose }: { b: BatchData; from: JarsAt; write: Write; onClose: () => void }) {
  const { day } = useFormats();
  const parties = useParties();
  const ways = waysFrom(from.place).filter((p) => p !== "with" || b.record.state === "released");
  const back = from.place === "with";
  const entry = useEntry({
    schema,
    start: { to: ways[0], jars: from.jars, party: "", reason: "" },
    names: { jars: ["moved.jars"], to: ["moved.to"], party: ["moved.party"], reason: ["moved.reason"] },
    send: async ({ to, jars, party, reason }) => {
      const who = back ? from.party : to === "with" ? Number(party) : undefined;
      await accepted(write({ kind: "moved", moved: { from: from.place, to, jars, party: who, reason: reason.trim() || undefined } }));
      onClose();
    },
  });
  const who = (parties.data ?? [])
    .filter((p) => !p.retired)
    .map((p) => [String(p.id), p.day ? `${p.name}, ${day(p.day, true)}` : p.name] as const);
  return (
    <Modal open onClose={onClose} title={back ? `Back from ${from.party_name}` : `Move jars of ${b.code}`} width={460}>
      <form {...entry.form}>
        {back && b.record.state === "called_back" && (
          <div className="mb-3">
            <Caution level="danger" title="Called back.">
              What comes back is withdrawn or broken; it is never put back.
            </Caution>
          </div>
        )}
        <div className="grid grid-cols-[110px_minmax(0,1fr)] gap-3">
          <NumberField label={`Jars (of ${from.jars})`} autoFocus {...entry.pick("jars")} />
          <SelectField
            label="are now"
            options={ways.map((w) => [w, w === "with" ? "with a customer or market" : placeWord(w)] as const)}
            {...entry.pick("to")}
          />
        </div>
        {entry.values.to === "with" && (
          <SelectField className="mt-3" label="with whom" options={[["", "choose"], ...who]} {...entry.pick("party")} />
        )}
        <TextField className="mt-3" label="A word to it (an owner's reason, where jars come back into sale)" {...entry.text("reason")} />
        <Foot problem={entry.rest()} leave="Leave them" onLeave={onClose}>
          Write it down
        </Foot>
      </form>
    </Modal>
  );
}
