import type { Schemas } from "../../../api/client";
import { MAKE_UP, makeUpWords } from "../../../parts/makeup";
import { useFormats } from "../../../parts/shop";

type Plan = Schemas["PlanView"];

const SHAPE = "M8 14h102l-10 62q-2 10-14 10H32q-12 0-14-10z";
const FULL = 70; // px between the bottom and what the vessel takes at most

/** The loads as they stand in their vessel, filled with what they are made of, against what it takes. */
export function Bowls({ plan }: { plan: Plan }) {
  const { num } = useFormats();
  const greatest = plan.vessel.greatest_g;
  const most = Math.max(greatest, ...plan.loads);
  const many = plan.loads.length > 4;
  const shown = many ? plan.loads.slice(0, 3) : plan.loads;
  return (
    <ul className="flex flex-wrap gap-x-3.5 gap-y-2" aria-label="Loads">
      {shown.map((g, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a load is its place
        <li key={i} className="text-center">
          <Bowl grams={g} plan={plan} most={most} />
          <b className="block text-lead leading-tight font-semibold">
            {num(g, plan.loads.some((x) => !Number.isInteger(x)) ? 1 : 0)}
            <span className="unit">g</span>
          </b>
          <small className="text-note text-ink-2">{greatest > 0 ? `of at most ${num(greatest)}` : "no vessel named"}</small>
        </li>
      ))}
      {many && <li className="self-center text-body text-ink-2">and {plan.loads.length - 3} more alike</li>}
    </ul>
  );
}

function Bowl({ grams, plan, most }: { grams: number; plan: Plan; most: number }) {
  const total = MAKE_UP.reduce((s, [k]) => s + plan.make_up[k], 0) || 1;
  const height = (FULL * grams) / most;
  const limit = plan.vessel.greatest_g > 0 ? 86 - (FULL * plan.vessel.greatest_g) / most : null;
  const least = plan.vessel.least_g > 0 ? 86 - (FULL * plan.vessel.least_g) / most : null;
  let y = 86 - height;
  return (
    <svg width="118" height="92" viewBox="0 0 118 92" role="img" aria-label={makeUpWords(plan.make_up)}>
      <path d={SHAPE} fill="#fff" />
      <clipPath id="plan-bowl">
        <path d={SHAPE} />
      </clipPath>
      <g clipPath="url(#plan-bowl)">
        {MAKE_UP.map(([k, , color]) => {
          const h = (height * plan.make_up[k]) / total;
          const at = y;
          y += h;
          return h < 0.3 ? null : <rect key={k} x="0" y={at} width="118" height={h + 0.4} fill={color} />;
        })}
      </g>
      <path d={SHAPE} fill="none" stroke="var(--color-cobalt-deep)" strokeWidth="2.500" />
      {limit !== null && <path d={`M2 ${limit}h114`} stroke="var(--color-beet)" strokeDasharray="4 3" strokeWidth="1.500" />}
      {least !== null && <path d={`M2 ${least}h8m98 0h8`} stroke="var(--color-ink-2)" strokeWidth="1.500" />}
    </svg>
  );
}
