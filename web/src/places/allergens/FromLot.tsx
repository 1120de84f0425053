import { useQueryClient } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { useEntry } from "../../parts/entry";
import { Refused, TextField } from "../../parts/form";
import { said } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { useMe } from "../../parts/session";
import type { Change } from "./changes";

const schema = z.object({ lot: said("which lot?"), why: said("say how that is known") });

/** From which lot on: batches that took only earlier ones are not affected. */
export function FromLot({ c }: { c: Change }) {
  const me = useMe();
  const client = useQueryClient();
  const entry = useEntry({
    schema,
    start: { lot: "", why: "" },
    send: async ({ lot, why }) => {
      await take(api.POST("/allergens/changes/{id}/from-lot", { params: { path: { id: c.id } }, body: { lot: Number(lot), reason: why } }));
      await refreshAll(client);
    },
  });
  if (!me.may("owner")) return null;
  const { lot, why } = entry.values;
  const lots = [["", "not known"], ...c.lots.map((l) => [String(l.id), `${l.code}, ${l.name}`] as const)] as const;
  return (
    <form className="sheet mb-4 p-4" {...entry.form}>
      <p className="mb-2 text-body">
        <b>From which lot on is it in?</b> Batches that took only earlier lots are let go. Not known: all in date stay called back.
      </p>
      <div className="grid grid-cols-[200px_minmax(0,1fr)_auto] items-end gap-3 max-tablet:grid-cols-1">
        <SelectField label="From lot" options={lots} {...entry.pick("lot")} />
        <TextField label="How is that known?" {...entry.text("why")} />
        <button type="submit" className="btn-line" disabled={!lot || !why.trim()}>
          Let earlier ones go
        </button>
      </div>
      <Refused entry={entry} className="mt-2 text-note" />
    </form>
  );
}
