import type { Schemas } from "../../api/client";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";

type Told = Schemas["IngredientView"]["offers_told"][number];

const WIDE = 560;
const HIGH = 92;

/** What a usable kilo cost over time, a line a supplier: each price holds until that supplier's next, or until it ends. */
export function PriceLine({ told, each, pack }: { told: Told[]; each: (perGram: number) => string; pack: boolean }) {
  const { day, shop } = useFormats();
  const known = told.filter((t): t is Told & { per_gram: number } => t.per_gram != null);
  if (known.length < 2) return null;
  const now = today();
  const days = known
    .flatMap((t) => [t.offer.date, t.offer.valid_until || t.offer.date])
    .concat(now)
    .toSorted();
  const first = days[0] ?? now;
  const last = days[days.length - 1] ?? now;
  const costs = known.map((t) => t.per_gram);
  const high = Math.max(...costs);
  const low = Math.min(...costs);
  const at = (d: string) => Date.parse(`${d}T00:00:00Z`);
  const x = (d: string) => 6 + ((at(d) - at(first)) / Math.max(1, at(last) - at(first))) * (WIDE - 90);
  const y = (c: number) => 14 + ((high - c) / (high - low || 1)) * (HIGH - 40);
  const suppliers = [...new Set(known.map((t) => t.offer.supplier))];
  const ends = apart(
    suppliers.map((s) =>
      y(known.filter((t) => t.offer.supplier === s).toSorted((a, b) => b.offer.date.localeCompare(a.offer.date))[0]?.per_gram ?? low),
    ),
  );
  const tints = ["var(--color-cobalt)", "var(--color-acid)", "var(--color-leaf)", "var(--color-mustard)"];
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="mb-2 block w-full"
      role="img"
      aria-label={`From ${each(low)} to ${each(high)} ${shop.currency} ${pack ? "a piece" : "a usable kg"} since ${day(first, true)}`}
    >
      <line x1={x(now)} x2={x(now)} y1="6" y2={HIGH - 18} stroke="var(--color-rule-strong)" strokeDasharray="2 3" />
      <text x={x(now)} y={HIGH - 5} textAnchor="middle" fontSize="11" fill="var(--color-ink-2)">
        today
      </text>
      {Math.abs(x(first) - x(now)) > 90 && (
        <text x={x(first)} y={HIGH - 5} fontSize="11" fill="var(--color-ink-2)">
          {day(first, true)}
        </text>
      )}
      {suppliers.map((s, k) => {
        const own = known.filter((t) => t.offer.supplier === s).toSorted((a, b) => a.offer.date.localeCompare(b.offer.date));
        const color = tints[k % tints.length];
        const d = own
          .map((t, i) => {
            const next = own[i + 1]?.offer.date;
            const end = [next, t.offer.valid_until].filter((e): e is string => !!e).toSorted()[0] ?? [t.offer.date, now].toSorted()[1];
            const joined = i > 0 && (own[i - 1]?.offer.valid_until || "9") >= t.offer.date;
            return `${joined ? "L" : "M"}${x(t.offer.date)} ${y(t.per_gram)}L${x(end)} ${y(t.per_gram)}`;
          })
          .join("");
        const end = own[own.length - 1];
        return (
          <g key={s}>
            <path d={d} fill="none" stroke={color} strokeWidth="2" />
            {own.map((t) => (
              <circle
                key={t.offer.date}
                cx={x(t.offer.date)}
                cy={y(t.per_gram)}
                r="3.500"
                fill={t.state === "waits" ? "#fff" : color}
                stroke={color}
                strokeWidth="1.500"
              >
                <title>{`${s}, ${day(t.offer.date, true)}: ${each(t.per_gram)}`}</title>
              </circle>
            ))}
            {end && (
              <text x={WIDE - 78} y={(ends[k] ?? 0) + 4} fontSize="11.500" fill={color}>
                {each(end.per_gram)} {s.length > 8 ? `${s.slice(0, 7)}…` : s}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}

/** Heights of words beside lines, moved apart so that none lies over another. */
export function apart(heights: number[], least = 13): number[] {
  const out = [...heights];
  const order = heights.map((_, i) => i).toSorted((a, b) => (heights[a] ?? 0) - (heights[b] ?? 0));
  order.forEach((at, i) => {
    const above = order[i - 1];
    if (above !== undefined) out[at] = Math.max(out[at] ?? 0, (out[above] ?? 0) + least);
  });
  return out;
}
