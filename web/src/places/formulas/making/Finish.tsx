import * as z from "zod/mini";
import { useEntry } from "../../../parts/entry";
import { AreaField, Foot, Modal } from "../../../parts/form";
import { NumberField } from "../../../parts/number";
import { figure, words } from "../../../parts/schema";
import type { Trial } from "./making";

const schema = z.object({ finished_g: figure, score: figure, note: words });

/** The making is over: how much there is, and how it was. */
export function Finish({
  trial,
  onClose,
  onEnd,
}: {
  trial: Trial | null;
  onClose: () => void;
  onEnd: (end: { finished: number; score: number; note: string }) => Promise<unknown>;
}) {
  const entry = useEntry({
    schema,
    start: { finished_g: null, score: null, note: trial?.note ?? "" },
    send: ({ finished_g, score, note }) => onEnd({ finished: finished_g ?? 0, score: Math.round(score ?? 0), note }),
  });
  return (
    <Modal open onClose={onClose} title="It is made" width={460}>
      <form {...entry.form}>
        <div className="grid grid-cols-2 gap-3">
          <NumberField label="Made" unit="g" allowEmpty autoFocus {...entry.pick("finished_g")} />
          <NumberField label="Score" unit="of 10" allowEmpty {...entry.pick("score")} />
        </div>
        <AreaField className="mt-3" label="How was it?" rows={3} maxLength={2000} {...entry.text("note")} />
        <Foot problem={entry.rest()} leave="Not yet" onLeave={onClose} disabled={entry.busy}>
          Make it a trial
        </Foot>
      </form>
    </Modal>
  );
}
