import { useFormats } from "../../parts/shop";
import { signed } from "../formulas/Panel";
import type { View } from "./parts";

/** Lines that can be come to in several ways: what the whole jar costs by each, with its hands. */
export function WaysOf({ view }: { view: View }) {
  const { money, num } = useFormats();
  if (view.ways.length === 0) return null;
  return (
    <section aria-label="Ways">
      <h2 className="phase mb-1 text-lead">Made here, or bought</h2>
      {view.ways.map((w) => (
        <table key={w.line} className="ledger mb-3 w-full">
          <caption className="pb-1 text-left text-body">
            <b>{w.name}</b>, as much of it in every jar
          </caption>
          <thead>
            <tr>
              <th>Way</th>
              <th className="num">Hands, min a jar</th>
              <th className="num">A jar</th>
              <th className="num">Against today</th>
            </tr>
          </thead>
          <tbody>
            {w.options.map((o) => (
              <tr key={o.way}>
                <td className={o.now ? "font-semibold" : ""}>
                  {o.name}
                  {o.now && <span className="ml-2 text-note font-normal text-ink-2">as now</span>}
                </td>
                <td className="num">{num(o.minutes, 2)}</td>
                <td className="num font-semibold">{money(o.per_jar, 3)}</td>
                <td className="num">
                  {o.now ? (
                    ""
                  ) : o.more == null ? (
                    <span className="text-mustard-ink">no price for {o.missing.join(", ")}</span>
                  ) : (
                    signed(o.more, 3)
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </section>
  );
}
