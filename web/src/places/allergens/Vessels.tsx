import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, take } from "../../api/client";
import { refreshVessels, useVessels } from "../../api/queries/allergens";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { told } from "./marked";
import { NoteTurn } from "./NoteTurn";
import { VesselDialog } from "./VesselDialog";

type Vessel = Schemas["VesselView"];

/** Vessels by name, what was last in them, and whether they were cleaned down since. */
export function Vessels() {
  const me = useMe();
  const q = useVessels();
  const [adding, setAdding] = useState(false);
  const vessels = q.data?.filter((v) => !v.retired) ?? [];
  return (
    <section aria-labelledby="vessels">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 id="vessels" className="phase text-lead">
          Vessels
        </h2>
        {me.may("maker") && (
          <button type="button" className="btn-quiet" onClick={() => setAdding(true)}>
            Add a vessel
          </button>
        )}
      </div>
      <div className="sheet">
        {q.data && vessels.length === 0 && (
          <p className="p-5 text-ink-2">
            Name the bowls, blenders and lines that products share. What was in them and was not cleaned down goes onto the next label as
            “may contain”; without this list nothing is assessed and nothing is printed.
          </p>
        )}
        {vessels.map((v) => (
          <VesselRow key={v.id} v={v} />
        ))}
      </div>
      {adding && <VesselDialog onClose={() => setAdding(false)} />}
    </section>
  );
}

function VesselRow({ v }: { v: Vessel }) {
  const { shop, moment, num } = useFormats();
  const me = useMe();
  const client = useQueryClient();
  const [noting, setNoting] = useState<"used" | "cleaned" | "">("");
  const [retiring, setRetiring] = useState(false);
  const [changing, setChanging] = useState(false);
  const codes = Object.fromEntries(Object.entries(v.carries).map(([law, list]) => [law, list.map((c) => c.code)]));
  const words = shop.ticks.filter((t) => told(t, codes)).map((t) => t.word);
  const last = v.entries[0];
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-4 border-b border-rule-soft px-4 py-2.5 last:border-0">
      <div className="min-w-0">
        <b className="text-lead">{v.name}</b>{" "}
        {words.length > 0 ? (
          <span className="ml-1 font-semibold text-mustard-ink">carries {words.join(", ")}</span>
        ) : (
          <span className="ml-1 text-body text-leaf">{last ? "carries nothing" : "not used yet"}</span>
        )}
        <span className="block text-note text-ink-2">
          {v.greatest_g > 0
            ? `works from ${num(v.least_g)} to ${num(v.greatest_g)} g${v.residue_g > 0 ? `, ${num(v.residue_g)} g stay in it` : ""}`
            : "nobody said how much it works with: no loads are planned in it"}
        </span>
        {last && (
          <span className="block text-note text-ink-2">
            {last.kind === "cleaned" ? `cleaned down, ${last.what}` : `last in it: ${last.what}`}, {moment(last.at)}, {last.by}
          </span>
        )}
      </div>
      <div className="flex gap-1">
        <button type="button" className="btn-line" onClick={() => setNoting("cleaned")}>
          Cleaned down<span className="sr-only">: {v.name}</span>
        </button>
        <button type="button" className="btn-quiet" onClick={() => setNoting("used")}>
          Was in it<span className="sr-only">: {v.name}</span>
        </button>
        {me.may("maker") && (
          <button type="button" className="btn-quiet" onClick={() => setChanging(true)}>
            Change<span className="sr-only"> {v.name}</span>
          </button>
        )}
        {me.may("maker") && (
          <button type="button" className="btn-quiet" onClick={() => setRetiring(true)}>
            Retire<span className="sr-only"> {v.name}</span>
          </button>
        )}
      </div>
      {changing && <VesselDialog of={v} onClose={() => setChanging(false)} />}
      {noting && <NoteTurn v={v} kind={noting} onClose={() => setNoting("")} />}
      <WhyDialog
        open={retiring}
        title={`Retire ${v.name}`}
        text="It is offered no more; what was in it stays on record."
        button="Retire it"
        act={async (why) => {
          const { carries: _c, entries: _e, ...vessel } = v;
          await take(api.PUT("/vessels/{id}", { params: { path: { id: v.id }, query: { why } }, body: { ...vessel, retired: true } }));
          await refreshVessels(client);
        }}
        onClose={() => setRetiring(false)}
      />
    </div>
  );
}
