import { useState } from "react";
import { Link } from "react-router";
import * as z from "zod/mini";
import { accepted, problemOf, type Schemas } from "../../api/client";
import { useBatchCost } from "../../api/queries/batches";
import { useVariance } from "../../api/queries/costs";
import { useEntry } from "../../parts/entry";
import { Refused } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { needed } from "../../parts/schema";
import { useFormats } from "../../parts/shop";
import { causeWords } from "../costs/Was";
import type { Write } from "./record";

/** What this batch cost: by the lots it came from, beside today's prices, and against its standard. */
export function CostByLots({ b, write }: { b: Schemas["BatchView"]; write: Write }) {
  const { money, shop } = useFormats();
  const cost = useBatchCost(b.id);
  const c = cost.data;
  if (!c) return null;
  const least = c.missing.length > 0 ? "at least " : "";
  const todayLeast = c.no_price.length > 0 ? "at least " : "";
  return (
    <section className="mt-5" aria-label="What it cost">
      <h2 className="mb-1 flex items-baseline justify-between text-body font-semibold">
        Ingredients <small className="text-note font-normal text-ink-2">{shop.currency}</small>
      </h2>
      <dl className="grid grid-cols-[minmax(0,1fr)_auto_auto] gap-x-4 gap-y-1 text-body">
        <dt className="text-ink-2">by the lots used</dt>
        <dd className="text-right font-semibold">
          {least}
          {money(c.by_lots)}
        </dd>
        <dd className="text-right text-ink-2">{c.per_jar_by_lots == null ? "" : `${money(c.per_jar_by_lots)} a jar`}</dd>
        <dt className="text-ink-2">at today's prices</dt>
        <dd className="text-right">
          {todayLeast}
          {money(c.today)}
        </dd>
        <dd className="text-right text-ink-2">{c.per_jar_today == null ? "" : `${money(c.per_jar_today)} a jar`}</dd>
      </dl>
      {c.at_today.length > 0 && (
        <p className="mt-1 text-note text-ink-2">No lot tells the cost of {c.at_today.join(", ")}: today's price.</p>
      )}
      {c.missing.length > 0 && <p className="mt-1 text-note text-mustard-ink">Nothing tells the cost of {c.missing.join(", ")}.</p>}
      {b.record.fill && <AgainstStandard id={b.id} />}
      {b.record.fill && <Hands b={b} write={write} />}
      <Link to={`/costs/${b.formula}/${b.version}`} className="mt-1 inline-block text-note font-semibold text-cobalt hover:underline">
        What a jar of it costs
      </Link>
    </section>
  );
}

/** The one cause of the difference, first. */
function AgainstStandard({ id }: { id: number }) {
  const { money } = useFormats();
  const q = useVariance(id);
  if (q.error) return <p className="mt-2 text-note text-ink-2">{problemOf(q.error).title}</p>;
  if (!q.data) return null;
  return (
    <p className="mt-2 text-note">
      <span className="text-ink-2">Against the standard of that day: </span>
      <b className="font-semibold">{causeWords(q.data, money)}</b>
    </p>
  );
}

/** How long hands were at it: written down once the jars are filled, put right by writing it again. */
function Hands({ b, write }: { b: Schemas["BatchView"]; write: Write }) {
  const { num } = useFormats();
  const worked = b.record.worked;
  const [open, setOpen] = useState(false);
  if (open) return <HandsForm minutes={worked?.minutes ?? null} write={write} onClose={() => setOpen(false)} />;
  return (
    <p className="mt-1 text-note">
      {worked ? <span className="text-ink-2">{num(worked.minutes / 60, 1)} h of hands, all together. </span> : null}
      <button type="button" className="font-semibold text-cobalt hover:underline" onClick={() => setOpen(true)}>
        {worked ? "Put it right" : "Say how long hands were at it"}
      </button>
    </p>
  );
}

const schema = z.object({ minutes: needed("how many minutes?") });

function HandsForm({ minutes, write, onClose }: { minutes: number | null; write: Write; onClose: () => void }) {
  const entry = useEntry({
    schema,
    start: { minutes },
    names: { minutes: ["worked.minutes"] },
    send: async (worked) => {
      await accepted(write({ kind: "worked", worked }));
      onClose();
    },
  });
  return (
    <form className="mt-2" {...entry.form}>
      <div className="flex items-end gap-2">
        <NumberField className="w-36" label="Hands, all together" unit="min" allowEmpty {...entry.pick("minutes")} />
        <button type="submit" className="btn-line" disabled={entry.busy || !entry.values.minutes}>
          Write it down
        </button>
      </div>
      <Refused entry={entry} />
    </form>
  );
}
