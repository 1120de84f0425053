import type { Schemas } from "../../../api/client";
import { MakeUpBar } from "../../../parts/makeup";
import { useFormats } from "../../../parts/shop";

type Plan = Schemas["PlanView"];

/** What is weighed into each load, in whole divisions of the scale that weighs it. */
export function LoadSheet({ plan }: { plan: Plan }) {
  const { num } = useFormats();
  const most = Math.max(...plan.lines.map((l) => l.grams), 1);
  const loads = Math.min(plan.loads.length, 6);
  const places = (g: number) => (Number.isInteger(Number((g * 10).toFixed(3))) ? 1 : 2);
  return (
    <section className="sheet mt-3.5 overflow-x-auto px-4.5 pt-3 pb-3" aria-labelledby="by-load">
      <h2 id="by-load" className="font-title text-lead text-ink-2 italic">
        What is weighed in, load by load
      </h2>
      <table className="ledger w-full min-w-140">
        <thead>
          <tr>
            <th>in this order</th>
            {Array.from({ length: loads }, (_, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a load is its place
              <th key={i} className="num">
                load {i + 1}
              </th>
            ))}
            {plan.loads.length > 1 && <th className="num">all</th>}
            <th className="pl-6">made of</th>
            <th className="pl-4" />
          </tr>
        </thead>
        <tbody>
          {plan.lines.map((l) => (
            <tr key={l.line}>
              <td>
                <b className="font-semibold">{l.name}</b>
                {l.phase && <span className="ml-2 text-note text-ink-2">{l.phase}</span>}
              </td>
              {l.loads.slice(0, loads).map((g, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a load is its place
                <td key={i} className="num">
                  {num(g, places(g))}
                  <span className="unit">g</span>
                </td>
              ))}
              {plan.loads.length > 1 && (
                <td className="num font-semibold">
                  {num(l.grams, places(l.grams))}
                  <span className="unit">g</span>
                </td>
              )}
              <td className="pl-6">
                <MakeUpBar makeUp={l.make_up} scale={120 / most} max={124} />
              </td>
              <td className="pl-4 text-note text-ink-2">
                {[
                  l.hold_back_percent > 0 && `${num(l.hold_back_percent)} % held back until tasted`,
                  l.hot && "cooling is logged",
                  l.doubt,
                  !l.doubt && l.scale !== plan.lines[0].scale && l.scale && `on the ${l.scale.toLowerCase()}`,
                ]
                  .filter(Boolean)
                  .join("; ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
