import { useBatchCost } from "../../api/queries/batches";
import { useFormats } from "../../parts/shop";

/** What the ingredients of this batch cost by the lots they came from, beside today's prices. */
export function CostByLots({ id }: { id: number }) {
  const { money, shop } = useFormats();
  const cost = useBatchCost(id);
  const c = cost.data;
  if (!c) return null;
  const least = c.missing.length > 0 ? "at least " : "";
  const todayLeast = c.no_price.length > 0 ? "at least " : "";
  return (
    <section className="mt-5" aria-label="What it cost">
      <h2 className="mb-1 flex items-baseline justify-between text-[14px] font-semibold">
        Ingredients <small className="text-[12.5px] font-normal text-ink-2">{shop.currency}</small>
      </h2>
      <dl className="grid grid-cols-[minmax(0,1fr)_auto_auto] gap-x-4 gap-y-1 text-[13.5px]">
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
        <p className="mt-1 text-[12.5px] text-ink-2">No lot tells the cost of {c.at_today.join(", ")}: today's price.</p>
      )}
      {c.missing.length > 0 && <p className="mt-1 text-[12.5px] text-mustard-ink">Nothing tells the cost of {c.missing.join(", ")}.</p>}
    </section>
  );
}
