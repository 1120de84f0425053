import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import * as z from "zod/mini";
import { api, take } from "../../api/client";
import { refreshVessels, useVessels } from "../../api/queries/allergens";
import { useEntry } from "../../parts/entry";
import { Refused } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { said } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import type { BatchData } from "./record";

const schema = z.object({ vessel: said("which vessel?") });

/** In which shared vessels the batch was made, and what they carried into it. */
export function MadeIn({ b }: { b: BatchData }) {
  const { shop } = useFormats();
  const client = useQueryClient();
  const vessels = useVessels();
  const entry = useEntry({
    schema,
    start: { vessel: "" },
    send: async ({ vessel }) => {
      await take(api.POST("/vessels/{id}/turns", { params: { path: { id: Number(vessel) } }, body: { kind: "used", batch: b.id } }));
      entry.reset();
      await refreshVessels(client);
    },
  });
  const there = vessels.data?.filter((v) => !v.retired) ?? [];
  const contact = b.contact.may_contain[b.regime.toLowerCase()] ?? [];
  const word = (code: string) => shop.ticks.find((t) => t.codes[b.regime.toLowerCase()] === code)?.word ?? code.replace(/^.*:/, "");
  if (there.length === 0 && contact.length === 0) return null;
  return (
    <form className="mt-6 border-t border-rule pt-4" {...entry.form}>
      <h2 className="phase mb-1 text-lead">Made in</h2>
      <p className="mb-2 text-body text-ink-2">
        {b.contact.vessels.length > 0 ? (
          <b className="text-ink">{b.contact.vessels.join(", ")}</b>
        ) : (
          "No shared vessel is written down: cross-contact is not assessed, and the label says nothing of it."
        )}
      </p>
      {contact.length > 0 && (
        <Caution level="needs_you" title={`May contain ${contact.map((c) => word(c.code)).join(", ")}:`}>
          {contact.map((c) => `${word(c.code)} by ${c.from.join("; ")}`).join(". ")}. It goes onto the label.
        </Caution>
      )}
      {there.length > 0 && (
        <div className="mt-2 flex items-end gap-3">
          <SelectField
            label="It was in"
            className="w-60"
            options={[["", "choose the vessel"], ...there.map((v) => [String(v.id), v.name] as const)]}
            {...entry.pick("vessel")}
          />
          <button type="submit" className="btn-line" disabled={entry.busy || !entry.values.vessel}>
            Write it down
          </button>
          <Link to="/allergens" className="btn-quiet inline-flex items-center">
            Vessels
          </Link>
        </div>
      )}
      <Refused entry={entry} className="mt-2" />
    </form>
  );
}
