import { MAKE_UP, type MakeUp, makeUpWords } from "../../../parts/makeup";
import { useFormats } from "../../../parts/shop";
import type { Desk, LoadState } from "./desk";
import { waitingFor } from "./desk";

const TOP = 10;
const BOTTOM = 390;

/** What is on the scale of a line and not taken yet. */
interface Pouring {
  line: string;
  grams: number;
}

/** What is in the vessel, by what it is made of. What is added for taste counts as other solids but for its water. */
export function contents(desk: Desk, load: LoadState, pour: Pouring | null): MakeUp {
  const sum: MakeUp = { fat: 0, water: 0, acid: 0, salt: 0, sugar: 0, other: 0 };
  let named = 0;
  for (const l of load.lines) {
    const g = l.in_g + waitingFor(desk, load.no, l.line) + (pour?.line === l.line ? pour.grams : 0);
    const part = desk.parts[l.line];
    if (!part || g <= 0) continue;
    named += g;
    for (const [k] of MAKE_UP) sum[k] += part[k] * g;
  }
  const rest = load.bowl_g + (pour?.grams ?? 0) - named;
  if (rest > 0) sum.other += rest;
  return sum;
}

/** The vessel of a load, filling with what it is made of, against what it takes. */
export function Vessel({ desk, load, pour }: { desk: Desk; load: LoadState; pour: Pouring | null }) {
  const { num } = useFormats();
  const inside = contents(desk, load, pour);
  const grams = MAKE_UP.reduce((s, [k]) => s + inside[k], 0);
  const greatest = desk.planned?.vessel.greatest_g ?? 0;
  const full = Math.max(greatest > 0 ? greatest * 1.14 : load.target_g * 1.2, grams);
  const h = (g: number) => ((BOTTOM - TOP) * g) / full;
  let y = BOTTOM - h(grams);
  const limit = greatest > 0 ? BOTTOM - h(greatest) : null;
  const target = BOTTOM - h(load.target_g);
  return (
    <figure className="text-center text-lead text-ink-2 max-tablet:hidden" aria-label={`In the vessel: ${makeUpWords(inside)}`}>
      <svg width="170" height="400" viewBox="0 0 170 400" className="mx-auto max-h-[56vh]" role="img" aria-hidden="true">
        <defs>
          <clipPath id="bench-vessel">
            <path d="M10 10h150v350q0 30-30 30H40q-30 0-30-30z" />
          </clipPath>
        </defs>
        <g clipPath="url(#bench-vessel)">
          <rect width="170" height="400" fill="#fff" />
          {MAKE_UP.map(([k, , color]) => {
            const at = y;
            const high = h(inside[k]);
            y += high;
            return high < 0.4 ? null : <rect key={k} y={at} width="170" height={high + 0.5} fill={color} />;
          })}
        </g>
        <path d={`M10 ${target}h150`} stroke="var(--color-leaf)" strokeWidth="2" />
        <text x="16" y={target - 6} fontSize="13" fill="var(--color-leaf)" fontWeight="600">
          this load
        </text>
        <path d="M10 10h150v350q0 30-30 30H40q-30 0-30-30z" fill="none" stroke="var(--color-cobalt-deep)" strokeWidth="4" />
        {limit !== null && (
          <>
            <path d={`M10 ${limit}h150`} stroke="var(--color-beet)" strokeWidth="2" strokeDasharray="6 4" />
            <text x="85" y={limit - 7} textAnchor="middle" fontSize="14" fill="var(--color-beet)" fontWeight="600">
              takes {num(greatest)} g
            </text>
          </>
        )}
      </svg>
      <figcaption className="mt-1">
        <b className="font-semibold text-ink">{num(grams, grams < 1000 ? 1 : 0)} g</b> in it
        {greatest > 0 && <span className="block text-body">room for {num(Math.max(0, greatest - grams))} g</span>}
      </figcaption>
    </figure>
  );
}
