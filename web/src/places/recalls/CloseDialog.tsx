import { Link } from "react-router";
import * as z from "zod/mini";
import { useEntry } from "../../parts/entry";
import { AreaField, Foot, Modal } from "../../parts/form";
import { words } from "../../parts/schema";
import { say } from "../../tongue/words";
import type { Act, Recall as View } from "./fates";

const schema = z.object({ done: words });

/** Ends the search, and says what was done. */
export function CloseDialog({ v, act, onClose }: { v: View; act: Act; onClose: () => void }) {
  const untold = v.parties.filter((p) => !p.told);
  const entry = useEntry({
    schema,
    start: { done: "" },
    names: { done: ["closed.done"] },
    send: async (closed) => {
      await act({ kind: "closed", closed });
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={v.mock ? "Close the drill" : "Close the recall"} calm>
      <form {...entry.form}>
        {(v.account.open > 0 || untold.length > 0) && (
          <p className="mb-3 border-l-4 border-mustard bg-mustard-tint px-3 py-2 text-body">
            {untold.length > 0 && <>Not told: {untold.map((p) => p.name).join(", ")}. </>}
            {v.account.open > 0 &&
              (v.mock
                ? `${say("jars", { count: v.account.open })} nobody looked for count as not found.`
                : `${say("jars", { count: v.account.open })} are still to be looked for.`)}
          </p>
        )}
        <AreaField label="What was done; it stays on record" rows={3} {...entry.text("done")} />
        {!v.mock && (
          <p className="mt-2 text-note text-ink-2">
            Closing releases nothing: each batch stays called back until an owner decides on it, and the lot stays on hold.{" "}
            <Link className="text-cobalt underline" to="/jars">
              Where the jars are
            </Link>
          </p>
        )}
        <Foot problem={entry.rest()} onLeave={onClose} leave="Not yet" disabled={entry.busy}>
          Close it
        </Foot>
      </form>
    </Modal>
  );
}
