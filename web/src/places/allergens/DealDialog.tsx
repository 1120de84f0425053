import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { DateField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { Foot, Modal, TextField } from "../../parts/form";
import { words } from "../../parts/schema";
import { toast } from "../../parts/toast";
import { today } from "../../tongue/clock";
import type { Change } from "./changes";

export type How = "relabelled" | "withdrawn" | "gone";

const TITLES: Record<How, string> = {
  relabelled: "The jars carry new labels",
  withdrawn: "The jars are withdrawn",
  gone: "The jars are gone",
};

const schema = z.object({ reason: words, told: words, authority: words, day: words });

/** What became of the jars of one batch; of those that are gone, who was told. */
export function DealDialog({ c, b, how, onClose }: { c: Change; b: Schemas["ChangeBatch"]; how: How; onClose: () => void }) {
  const client = useQueryClient();
  const entry = useEntry({
    schema,
    start: { reason: "", told: "", authority: "", day: today() },
    names: {
      reason: ["made_good.reason"],
      told: ["made_good.told"],
      authority: ["made_good.authority"],
      day: ["made_good.day"],
    },
    send: async ({ reason, told, authority, day }) => {
      await take(
        api.POST("/batches/{id}/entries", {
          params: { path: { id: b.batch.id }, query: { key: `made-good-${c.id}-${b.batch.id}` } },
          body: {
            kind: "made_good",
            made_good: {
              change: c.id,
              how,
              reason,
              told: told || undefined,
              authority: authority || undefined,
              day: how === "gone" ? day : undefined,
            },
          },
        }),
      );
      toast(`${b.batch.code}: ${TITLES[how].toLowerCase()}.`);
      await refreshAll(client);
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={`${TITLES[how]}: ${b.batch.code}`}>
      <form {...entry.form}>
        {how === "relabelled" && (
          <p className="mb-3 text-body text-ink-2">
            Print the new labels for this batch first; then say that every jar carries one.{" "}
            <Link className="font-semibold text-cobalt underline" to="/labels">
              To the labels
            </Link>
          </p>
        )}
        <TextField label="What was done with the jars, in your words" autoFocus {...entry.text("reason")} />
        {how === "gone" && (
          <div className="mt-3 grid grid-cols-[minmax(0,1fr)_150px] gap-3">
            <TextField label="Which customers were told, and how" {...entry.text("told")} />
            <DateField label="On" max={today()} {...entry.pick("day")} />
            <TextField className="col-span-2" label="Who of the authority was told; or why nobody" {...entry.text("authority")} />
          </div>
        )}
        <Foot problem={entry.rest()} onLeave={onClose} look={how === "gone" ? "btn-beet" : "btn"}>
          Keep it on record
        </Foot>
      </form>
    </Modal>
  );
}
