import { useRef } from "react";
import { Link } from "react-router";
import { useBatchLots } from "../../api/queries/batches";
import { useIngredients } from "../../api/queries/pantry";
import { useFormats } from "../../parts/shop";
import { useKeptCount } from "../../saving/kept";
import { today } from "../../tongue/clock";
import { say } from "../../tongue/words";
import type { BatchData, Write } from "./record";
import { WeighRow } from "./WeighRow";

/** Targets beside what was weighed, with deviation and lot: one row a line, saved with Enter. */
export function WeighSheet({ b, write, onDone }: { b: BatchData; write: Write; onDone: () => void }) {
  const { num, shop } = useFormats();
  const lots = useBatchLots(b.id);
  const table = useRef<HTMLTableElement>(null);
  const total = b.record.lines.reduce((s, l) => s + l.target_g, 0);
  const actual = b.record.lines.reduce((s, l) => s + (l.actual_g ?? 0), 0);
  const closed = b.record.state !== "hold" || b.made_on > today();
  const kept = useKeptCount(`weigh ${b.id} `);
  const open = closed ? 0 : kept;
  const pantry = useIngredients();
  const density = (l: { name: string }) => pantry.data?.find((g) => g.name === l.name)?.density_g_ml ?? 0;
  const next = (from: HTMLInputElement) => {
    const cells = Array.from(table.current?.querySelectorAll<HTMLInputElement>("input[data-grams]") ?? []);
    const open = cells.slice(cells.indexOf(from) + 1)[0];
    open?.focus();
    open?.select();
  };
  const without = b.record.lines.filter(
    (l) => l.needs_lot && l.draws.length === 0 && lots.data && !lots.data.find((x) => x.line === l.line)?.lots.length,
  );
  return (
    <section className="sheet overflow-x-auto">
      {!closed && without.length > 0 && (
        <p className="flex flex-wrap items-center gap-x-2 border-b border-rule bg-mustard-tint/45 px-4 py-2 text-body">
          <span>
            <b className="text-mustard-ink">No lot is on the shelf</b> for {without.map((l) => l.name).join(", ")}: the label of every jar
            leads back to it.
          </span>
          <Link className="font-semibold text-cobalt underline" to={`/stock/receive?for=${b.id}`}>
            Take the delivery in
          </Link>
        </p>
      )}
      <table ref={table} className="ledger w-full min-w-175 table-fixed">
        <thead>
          <tr>
            <th className="w-8" />
            <th>Into the bowl</th>
            <th className="num w-21.5">target</th>
            <th className="num w-24.5">weighed</th>
            <th className="num w-14.5">off by</th>
            <th className="w-29.5 pl-3">lot</th>
            <th className="w-30.5 pl-2">ends, proof</th>
            <th className="w-14.5" />
          </tr>
        </thead>
        {b.record.lines.map((l, i) => (
          <WeighRow
            key={l.line}
            batch={b.id}
            density={density(l)}
            l={l}
            shelf={lots.data?.find((x) => x.line === l.line)}
            asking={lots.isPending}
            n={i + 1}
            heading={l.phase && l.phase !== b.record.lines[i - 1]?.phase ? l.phase : ""}
            write={write}
            closed={closed}
            onNext={next}
          />
        ))}
        <tfoot>
          <tr className="border-t-3 border-double border-rule-strong bg-paper-foot text-lead font-semibold">
            <td className="h-11.5!" />
            <td>{say("jars", { count: b.jars_planned })} planned</td>
            <td className="num whitespace-nowrap">
              {num(total, 1)}
              <span className="unit">g</span>
            </td>
            <td className="num whitespace-nowrap">
              {num(actual, 1)}
              <span className="unit">g</span>
            </td>
            <td colSpan={4} className="pr-3 text-right">
              {b.made_on > today() && <span className="text-body font-normal text-ink-2">planned: weighed on its day</span>}
              {b.record.weighed && !closed && open === 0 && (
                <button type="button" className="btn" onClick={onDone}>
                  All weighed: fill the jars
                </button>
              )}
              {open > 0 && (
                <span className="text-body font-semibold text-mustard-ink">
                  {open === 1 ? "one row is" : `${open} rows are`} not stored yet
                </span>
              )}
            </td>
          </tr>
        </tfoot>
      </table>
      <p className="px-4 py-2 text-note text-ink-2">
        Weigh to {shop.scale_division_g} g; type it; leaving the row or Enter writes it down. Guards on before the machine runs; knives and
        blades stay out of the bowl. Wash down between products with different allergens. The lot in your hand counts: Enter takes the one
        that ends first, or type or scan its code.
      </p>
    </section>
  );
}
