import { useAtSize } from "../../../api/queries/formulas";
import { Caution } from "../../../parts/marks";
import { useFormats } from "../../../parts/shop";
import { fixed } from "../../../tongue/quantity";

/** Lines that scale less change the percents: what this size is made of. */
export function AtSize({ formula, number, jars }: { formula: string; number: number; jars: number }) {
  const { num, money, shop } = useFormats();
  const size = useAtSize(formula, number, jars, true).data;
  if (!size?.scales_less) return null;
  const less = size.version.lines.filter((l) => (l.scale_exponent ?? 1) < 1);
  const { panel, version } = size;
  return (
    <section className="mt-3 border-t border-rule pt-2 text-note" aria-label="At this size">
      <p className="text-ink-2">
        At {num(size.jars)} jars, because some lines scale less: {money(panel.cost.per_jar)} {shop.currency} a jar
        {panel.ph.low != null && panel.ph.high != null && `, pH ${fixed(panel.ph.low, 2)} to ${fixed(panel.ph.high, 2)}`}.
      </p>
      <ul className="mt-1">
        {less.map((l) => {
          const row = panel.lines.find((x) => x.id === l.id);
          return (
            <li key={l.id} className="flex justify-between">
              <span className="truncate">{row?.name}</span>
              <b className="font-semibold">
                {num(row?.grams ?? 0, 1)} g, {num(row?.percent ?? 0, 2)} %
              </b>
            </li>
          );
        })}
      </ul>
      {panel.ph.high != null && panel.ph.high > version.ph_target && (
        <div className="mt-2">
          <Caution level="danger" title="Not at this size.">
            The top of the band is over the target of {version.ph_target}; plan fewer jars, or let those lines grow with the batch.
          </Caution>
        </div>
      )}
    </section>
  );
}
