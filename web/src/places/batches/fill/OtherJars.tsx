import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, fieldMessage, type Problem, problemOf, take } from "../../../api/client";
import { useBowl } from "../../../api/queries/batches";
import { refreshAll } from "../../../api/queries/keys";
import { Foot, Modal } from "../../../parts/form";
import { NumberField } from "../../../parts/number";
import { SelectField } from "../../../parts/select";
import { useMe } from "../../../parts/session";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
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

function SplitDialog({ b, onClose }: { b: BatchData; onClose: () => void }) {
  const { num } = useFormats();
  const bowl = useBowl(b.id);
  const client = useQueryClient();
  const [picked, setPicked] = useState("");
  const [jars, setJars] = useState<number | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const others = bowl.data?.others ?? [];
  const key = (o: (typeof others)[number]) => `${o.formula}/${o.version}`;
  const of = others.find((o) => key(o) === picked) ?? others[0];
  const [split, busy] = useAct(async () => {
    if (!of) return;
    try {
      await take(
        api.POST("/batches/{id}/splits", {
          params: { path: { id: b.id } },
          body: { formula: of.formula, version: of.version, jars: jars ?? 0 },
        }),
      );
      await refreshAll(client);
      onClose();
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
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
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void split();
          }}
        >
          <p className="mb-3 text-body text-ink-2">
            They are a batch of their own: with the lots and weights of this bowl, their own net weights, readings and decision. If one is
            called back, so is the other.
          </p>
          <div className="grid grid-cols-[minmax(0,1fr)_120px] gap-4">
            <SelectField
              label="Filled as"
              value={of ? key(of) : ""}
              onValue={setPicked}
              options={others.map((o) => [key(o), `${o.name}, version ${o.version}: ${num(o.fill_g, 0)} g a jar`] as const)}
              error={fieldMessage(problem, "version", "formula")}
            />
            <NumberField label="Jars" value={jars} onValue={setJars} error={fieldMessage(problem, "jars")} />
          </div>
          <p className="mt-2 text-note text-ink-2">{num(bowl.data?.left_g ?? 0, 1)} g of the bowl are in no other jars yet.</p>
          <Foot problem={problem} onLeave={onClose} disabled={busy || !of || jars === null}>
            Fill them from this bowl
          </Foot>
        </form>
      )}
    </Modal>
  );
}
