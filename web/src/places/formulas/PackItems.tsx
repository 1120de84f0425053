import { Link } from "react-router";
import { fieldMessage } from "../../api/client";
import { useIngredients } from "../../api/queries/pantry";
import { ChooseIngredient } from "../../parts/choose";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import type { DraftState, Version } from "./useDraft";

type Item = Version["packaging"][number];

/** The parts of the pack: bought ones cost what the pantry says today, others what was typed. */
export function PackItems({ draft, locked }: { draft: DraftState; locked: boolean }) {
  const { version, problem, edit } = draft;
  const { shop, money } = useFormats();
  const costs = draft.view.panel.cost.items;
  const pantry = useIngredients();
  const costOf = (id: string) => pantry.data?.find((g) => g.id === id)?.per_kg; // of a part of the pack: a piece
  const set = (i: number, change: Partial<Item>) =>
    edit(
      "packaging",
      (v) => ({ ...v, packaging: v.packaging.map((p, j) => (i === j ? { ...p, ...change } : p)) }),
      `packaging ${i} ${Object.keys(change)}`,
    );
  const add = (item: Item) => edit("packaging", (v) => ({ ...v, packaging: [...v.packaging, item] }));
  return (
    <>
      <table className="ledger w-full max-w-180">
        <thead>
          <tr>
            <th>Part</th>
            <th className="num">A piece, {shop.currency}</th>
            <th className="num">Spoilt, %</th>
            <th className="num">Jars a piece</th>
            <th className="num">A jar</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {version.packaging.map((p, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: an item has no identity but its place
            <tr key={i} className="align-top">
              <td className="py-1 pr-3">
                <TextField
                  label=""
                  aria-label={`Item ${i + 1}`}
                  value={p.name}
                  disabled={locked}
                  error={fieldMessage(problem, `packaging[${i}].name`)}
                  onChange={(e) => set(i, { name: e.target.value })}
                />
              </td>
              <td className="w-36 py-1 pr-3 max-desk:w-24">
                {p.item ? (
                  <Link to={`/pantry/${p.item}`} className="block pt-2.5 text-right text-note font-semibold text-cobalt hover:underline">
                    {costOf(p.item) == null ? "no price" : money(costOf(p.item) ?? 0, 4)}
                  </Link>
                ) : (
                  <NumberField
                    label=""
                    aria-label={`Price of ${p.name}`}
                    value={p.price}
                    disabled={locked}
                    error={fieldMessage(problem, `packaging[${i}].price`)}
                    onValue={(n) => set(i, { price: n ?? 0 })}
                  />
                )}
              </td>
              <td className="w-24 py-1 pr-3 max-desk:w-18">
                <NumberField
                  label=""
                  aria-label={`Spoilt ${p.name}`}
                  value={p.loss_percent}
                  disabled={locked}
                  error={fieldMessage(problem, `packaging[${i}].loss_percent`)}
                  onValue={(n) => set(i, { loss_percent: n ?? 0 })}
                />
              </td>
              <td className="w-24 py-1 max-desk:w-18">
                <NumberField
                  label=""
                  aria-label={`Jars that share one ${p.name}`}
                  value={p.jars_a_piece || 1}
                  disabled={locked}
                  error={fieldMessage(problem, `packaging[${i}].jars_a_piece`)}
                  onValue={(n) => set(i, { jars_a_piece: n && n > 1 ? Math.round(n) : undefined })}
                />
              </td>
              <td className="num w-20 pt-3!">
                {costs[i]?.missing ? <span className="text-mustard-ink">no price</span> : costs[i] ? money(costs[i].per_jar, 3) : ""}
              </td>
              <td className="w-16 py-1">
                {!locked && (
                  <button
                    type="button"
                    className="btn-quiet"
                    onClick={() => edit("packaging", (v) => ({ ...v, packaging: v.packaging.filter((_, j) => j !== i) }))}
                  >
                    Out
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {version.packaging.length === 0 && (
        <p className="py-1 text-note text-mustard-ink">Nothing is said of the pack: the cost of a jar is “at least”.</p>
      )}
      {!locked && (
        <div className="mt-1 flex gap-2">
          <ChooseIngredient
            pack
            label="A part that is bought"
            className="btn-line"
            without={version.packaging.map((p) => p.item ?? "")}
            onChoose={(id, name) => add({ name, price: 0, loss_percent: 0, item: id })}
          >
            A part from the pantry …
          </ChooseIngredient>
          <button type="button" className="btn-quiet" onClick={() => add({ name: "item", price: 0, loss_percent: 0 })}>
            Add an item
          </button>
        </div>
      )}
    </>
  );
}
