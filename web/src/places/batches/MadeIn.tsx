import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Problem, problemOf, take } from "../../api/client";
import { refreshVessels, useVessels } from "../../api/queries/allergens";
import { Caution } from "../../parts/marks";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import type { BatchData } from "./record";

/** In which shared vessels the batch was made, and what they carried into it. */
export function MadeIn({ b }: { b: BatchData }) {
  const { shop } = useFormats();
  const client = useQueryClient();
  const vessels = useVessels();
  const [vessel, setVessel] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const there = vessels.data?.filter((v) => !v.retired) ?? [];
  const contact = b.contact.may_contain[b.regime.toLowerCase()] ?? [];
  const word = (code: string) => shop.ticks.find((t) => t.codes[b.regime.toLowerCase()] === code)?.word ?? code.replace(/^.*:/, "");
  if (there.length === 0 && contact.length === 0) return null;
  return (
    <form
      className="mt-6 border-t border-rule pt-4"
      onSubmit={async (e) => {
        e.preventDefault();
        try {
          await take(api.POST("/vessels/{id}/turns", { params: { path: { id: Number(vessel) } }, body: { kind: "used", batch: b.id } }));
          setVessel("");
          setProblem(null);
          await refreshVessels(client);
        } catch (x) {
          setProblem(problemOf(x));
        }
      }}
    >
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
            value={vessel}
            options={[["", "choose the vessel"], ...there.map((v) => [String(v.id), v.name] as const)]}
            onValue={(chosen) => setVessel(chosen)}
          />
          <button type="submit" className="btn-line" disabled={!vessel}>
            Write it down
          </button>
          <Link to="/allergens" className="btn-quiet inline-flex items-center">
            Vessels
          </Link>
        </div>
      )}
      {problem && (
        <p role="alert" className="mt-2 font-semibold text-beet">
          {problem.title}
        </p>
      )}
    </form>
  );
}
