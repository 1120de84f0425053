import { useIngredients } from "../../api/queries/pantry";
import type { BatchData } from "./record";

/** What was taken of a group: the label of this batch lists it. */
export function GroupRow({
  l,
  parts,
  closed,
  onParts,
  onKeyDown,
}: {
  l: BatchData["record"]["lines"][number];
  parts: Record<string, string>;
  closed: boolean;
  onParts: (p: Record<string, string>) => void;
  onKeyDown: (e: React.KeyboardEvent) => void;
}) {
  const pantry = useIngredients();
  const nameOf = (id: string) => pantry.data?.find((g) => g.id === id)?.name ?? id;
  return (
    <tr>
      <td className="h-auto!" />
      <td colSpan={7} className="h-auto! py-2">
        <div className="flex flex-wrap gap-x-5 gap-y-2">
          {(l.any_of ?? []).map((id) => (
            <label key={id} className="flex items-center gap-2 text-body">
              {nameOf(id)}
              <input
                className="field h-8! w-21! text-right"
                inputMode="decimal"
                aria-label={`Grams of ${nameOf(id)} taken`}
                value={parts[id] ?? ""}
                disabled={closed}
                onChange={(e) => onParts({ ...parts, [id]: e.target.value })}
                onKeyDown={onKeyDown}
              />
              <span className="unit">g</span>
            </label>
          ))}
        </div>
      </td>
    </tr>
  );
}
