import { useState } from "react";
import { problemOf } from "../../api/client";
import { useLock } from "../../api/queries/formulas";
import { Modal } from "../../parts/form";
import { Caution, Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { Documents, Rules, Verdicts, Words } from "../batches/Kept";
import { allergenWords } from "./Panel";

/** What a version rested on when it was locked, and what became stricter in the pantry since. */
export function LockButton({ formula, version }: { formula: string; version: number }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
        What it rested on
      </button>
      <Modal open={open} onClose={() => setOpen(false)} title={`What version ${version} rested on when it was locked`} width={820}>
        {open && <Kept formula={formula} version={version} />}
      </Modal>
    </>
  );
}

function Kept({ formula, version }: { formula: string; version: number }) {
  const { kept: moment } = useFormats();
  const kept = useLock(formula, version);
  if (kept.isPending) return <Loading what="what was kept" />;
  if (kept.isError) return <Failed message={problemOf(kept.error).title} />;
  const k = kept.data;
  const gained = [...new Set(Object.values(k.since.allergens).flatMap((a) => a ?? []))];
  return (
    <div className="grid gap-5 text-body">
      <p>
        Kept on {moment(k.at)} by <b>{k.by}</b>
        {k.upgraded ? ", at an upgrade, from the pantry of that day" : ""}, with {k.ingredients.length} ingredients as they were.
      </p>
      {(gained.length > 0 || k.since.flags.length > 0) && (
        <Caution level="danger" title="Stricter since:">
          {k.since.in.join(", ")}: {gained.length > 0 && `now with ${allergenWords(gained)}. `}
          {k.since.flags.length > 0 && `Flags gained: ${k.since.flags.join(", ").replaceAll("_", " ")}. `}
          It counts at once, for new batches, decisions and prints.
        </Caution>
      )}
      {k.moved.length > 0 && (
        <Caution level="needs_you" title="The pantry moved on.">
          {k.moved.join(", ")} {k.moved.length === 1 ? "is" : "are"} described otherwise today. This version stays as it was; lock a new one
          for batches made with what is there now.
        </Caution>
      )}
      <Verdicts verdicts={k.verdicts} />
      <Documents documents={k.documents} />
      <Words words={k.words} />
      <Rules rules={k.rules} />
    </div>
  );
}
