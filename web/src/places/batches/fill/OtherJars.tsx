import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import * as z from "zod/mini";
import { api, take } from "../../../api/client";
import { useBowl } from "../../../api/queries/batches";
import { refreshAll } from "../../../api/queries/keys";
import { useEntry } from "../../../parts/entry";
import { Foot, Modal } from "../../../parts/form";
import { NumberField } from "../../../parts/number";
import { needed, words } from "../../../parts/schema";
import { SelectField } from "../../../parts/select";
import { useMe } from "../../../parts/session";
import { useFormats } from "../../../parts/shop";
import { say } from "../../../tongue/words";
import type { BatchData } from "../record";

/** What of the bowl went into jars of another size, each a batch of its own, and the way to fill more. */
export function OtherJars({ b }: { b: BatchData }) {
  const { num } = useFormats();
  const me = useMe();
  const [open, setOpen] = useState(false);
  const may = b.record.state === "hold" && b.record.weighed && !b.record.from_bowl && me.may("maker");
  return (
    <div className="mt-3">
      {b.record.splits.map((s) => (
        <p key={s.batch} className="border-t border-rule-soft py-1.5 text-body">
          <b>{num(s.grams, 1)} g</b> of the bowl went into {say("jars", { count: s.jars })} of another size:{" "}
          <Link className="font-semibold text-cobalt underline" to={`/batches/${s.batch}/fill`}>
            {s.code}
          </Link>
          , {s.name}
        </p>
      ))}
      {may && (
        <button type="button" className="btn-line" onClick={() => setOpen(true)}>
          Part of it goes into other jars
        </button>
      )}
      {open && <SplitDialog b={b} onClose={() => setOpen(false)} />}
    </div>
  );
}

const schema = z.object({ picked: words, jars: needed("how many jars?") });

function SplitDialog({ b, onClose }: { b: BatchData; onClose: () => void }) {
  const { num } = useFormats();
  const bowl = useBowl(b.id);
  const client = useQueryClient();
  const others = bowl.data?.others ?? [];
  const key = (o: (typeof others)[number]) => `${o.formula}/${o.version}`;
  const entry = useEntry({
    schema,
    start: { picked: "", jars: null },
    names: { picked: ["version", "formula"] },
    send: async ({ jars }) => {
      if (!of) return;
      const body = { formula: of.formula, version: of.version, jars };
      await take(api.POST("/batches/{id}/splits", { params: { path: { id: b.id } }, body }));
      await refreshAll(client);
      onClose();
    },
  });
  const of = others.find((o) => key(o) === entry.values.picked) ?? others[0];
  return (
    <Modal open onClose={onClose} title="Part of it goes into other jars" width={560}>
      {bowl.data && others.length === 0 ? (
        <>
          <p className="text-body text-ink-2">
            Nothing else is made exactly as this is with other jars: the same lines, in the same shares. Copy the formula as a variant, give
            it the other jar and its label words, and lock it. Then its jars are filled from this bowl.
          </p>
          <p className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn-line" onClick={onClose}>
              Leave it
            </button>
            <Link className="btn inline-flex items-center" to={`/formulas/${b.formula}/${b.version}?part=variants`}>
              To its variants
            </Link>
          </p>
        </>
      ) : (
        <form {...entry.form}>
          <p className="mb-3 text-body text-ink-2">
            They are a batch of their own: with the lots and weights of this bowl, their own net weights, readings and decision. If one is
            called back, so is the other.
          </p>
          <div className="grid grid-cols-[minmax(0,1fr)_120px] gap-4">
            <SelectField
              label="Filled as"
              options={others.map((o) => [key(o), `${o.name}, version ${o.version}: ${num(o.fill_g, 0)} g a jar`] as const)}
              {...entry.pick("picked")}
              value={of ? key(of) : ""}
            />
            <NumberField label="Jars" {...entry.pick("jars")} />
          </div>
          <p className="mt-2 text-note text-ink-2">{num(bowl.data?.left_g ?? 0, 1)} g of the bowl are in no other jars yet.</p>
          <Foot problem={entry.rest()} onLeave={onClose} disabled={entry.busy || !of || entry.values.jars === null}>
            Fill them from this bowl
          </Foot>
        </form>
      )}
    </Modal>
  );
}
