import type { Schemas } from "../../api/client";
import { useFormats } from "../../parts/shop";
import { signed } from "../formulas/Panel";

/** What moves a jar: each thing by a tenth either way, the greatest first. */
export function Moves({ moves, perJar }: { moves: Schemas["CostMove"][]; perJar: number }) {
  const { num } = useFormats();
  const most = Math.max(...moves.map((m) => Math.max(Math.abs(m.less), Math.abs(m.more))), 1e-9);
  const shown = moves.slice(0, 10);
  const top = shown[0];
  return (
    <section aria-label="What moves it">
      <h2 className="phase text-lead">What moves it</h2>
      {top ? (
        <p className="mt-1 mb-2 text-body">
          A tenth on <b>{top.name}</b> moves a jar by {num(Math.abs(top.more), 3)}
          {perJar > 0 && `, ${num((100 * Math.abs(top.more)) / perJar, 1)} % of it`}.
        </p>
      ) : (
        <p className="text-body text-ink-2">Nothing has a price yet.</p>
      )}
      <table className="w-full text-note">
        <thead className="text-note text-ink-3">
          <tr>
            <th className="pb-1 text-left font-normal">by a tenth</th>
            <th className="w-16 pb-1 text-right font-normal">less</th>
            <th className="w-[46%] pb-1 max-phone:w-[18%]" />
            <th className="w-16 pb-1 text-right font-normal">more</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((m) => (
            <tr key={m.kind + m.of} className="h-6.5 border-b border-rule-soft">
              <td className="max-w-0 truncate pr-2 max-desk:leading-tight max-desk:whitespace-normal" title={words(m)}>
                {words(m)}
              </td>
              <td className="text-right text-ink-2">{signed(m.less, 3)}</td>
              <td className="px-3">
                <svg viewBox="0 0 200 14" preserveAspectRatio="none" className="block h-3.5 w-full" aria-hidden="true">
                  <Bar value={m.less} most={most} fill="var(--color-wash)" />
                  <Bar value={m.more} most={most} fill="var(--color-cobalt)" />
                  <line x1="100" x2="100" y1="0" y2="14" stroke="var(--color-ink-3)" strokeWidth="1" vectorEffect="non-scaling-stroke" />
                </svg>
              </td>
              <td className="text-right font-semibold">{signed(m.more, 3)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {moves.length > shown.length && <p className="mt-1 text-note text-ink-3">{moves.length - shown.length} more move it less.</p>}
    </section>
  );
}

const words = (m: Schemas["CostMove"]) => (m.kind === "price" ? `price of ${m.name}` : m.kind === "yield" ? `yield of ${m.name}` : m.name);

function Bar({ value, most, fill }: { value: number; most: number; fill: string }) {
  const w = (97 * Math.abs(value)) / most;
  return <rect x={value < 0 ? 100 - w : 100} y="2" width={w} height="10" fill={fill} />;
}
