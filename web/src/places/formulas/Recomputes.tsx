import { measureWords } from "../../parts/measure";
import { useFormats } from "../../parts/shop";
import { type Offer, taken } from "./recomputed";
import type { Edit, Version } from "./useDraft";

/** Lines whose grams came from a measure that was weighed, or dropped, since: taken over only when the maker says so. */
export function Recomputes({ list, version, edit }: { list: Offer[]; version: Version; edit: Edit }) {
  const { num } = useFormats();
  const take = (offers: Offer[]) =>
    edit(offers.length === 1 ? `${measureWords(offers[0].measure)} weighed` : `${offers.length} measures weighed`, (v) => ({
      ...v,
      lines: taken(v.lines, offers),
    }));
  return (
    <section aria-label="Measures weighed since" className="mb-2 border-l-4 border-mustard bg-mustard-tint/60 py-1 pl-3 text-note">
      <ul>
        {list.map((o) => (
          <li key={o.line} className="flex items-center gap-2">
            <span className="min-w-0 truncate">
              <b>“{version.lines.find((l) => l.id === o.line)?.words}”</b>: {num(o.now_g, 1)} g would be <b>{num(o.then_g, 1)} g</b>,{" "}
              {o.how}
            </span>
            <button type="button" className="min-h-7 shrink-0 px-2 font-semibold text-cobalt hover:underline" onClick={() => take([o])}>
              take it over
            </button>
          </li>
        ))}
      </ul>
      {list.length > 1 && (
        <button type="button" className="min-h-7 font-semibold text-cobalt hover:underline" onClick={() => take(list)}>
          Take all over
        </button>
      )}
    </section>
  );
}
