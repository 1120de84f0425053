import { useState } from "react";
import { Link } from "react-router";
import { Caution } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import { Unpriced } from "../formulas/Panel";
import { GROUPS, type Part, type Stack, sumOf, withDays } from "./parts";

/** One jar, filled with what it costs, and the ledger of it beside: every figure opens to where it comes from. */
export function StackOf({ stack, formula }: { stack: Stack; formula: string }) {
  const { money, num, shop } = useFormats();
  const [open, setOpen] = useState("");
  const total = stack.per_jar;
  const most = Math.max(...GROUPS.flatMap((g) => g.parts(stack).map((p) => p.per_jar)), 1e-9);
  return (
    <section className="sheet px-5 pt-4 pb-3" aria-label="The stack of one jar">
      <div className="flex items-end gap-4 max-desk:gap-3">
        <Pot stack={stack} />
        <div className="min-w-0 pb-1">
          {stack.at_least && <p className="text-body leading-none font-semibold text-mustard-ink">at least</p>}
          <p className="figure leading-none font-semibold tracking-tight">{money(total)}</p>
          <p className="mt-1 text-body text-ink-2">a jar, {shop.currency}</p>
          <p className="mt-2 text-note leading-normal text-ink-2">
            {say("jars", { count: stack.jars })} in {stack.loads === 1 ? "one load" : `${stack.loads} loads`}
            {stack.shifts > 1 && `, ${stack.shifts} shifts`}; {num(stack.minutes / 60, 1)} h of hands.
          </p>
        </div>
      </div>
      {stack.lines.length === 0 && (
        <p className="mt-3 text-body text-ink-2">
          Nothing is in the bowl yet.{" "}
          <Link to={`/formulas/${formula}`} className="font-semibold text-cobalt hover:underline">
            Weigh its first line
          </Link>
        </p>
      )}
      <table className="mt-3 w-full text-body">
        {GROUPS.map((g) => {
          const parts = g.parts(stack);
          if (parts.length === 0) return null;
          const sum = sumOf(parts);
          return (
            <tbody key={g.key}>
              <tr className="border-b border-rule">
                <th scope="rowgroup" colSpan={2} className="pt-2 pb-1 text-left font-semibold">
                  <span aria-hidden className="mr-2 inline-block size-2.5" style={{ background: g.color }} />
                  {g.name}
                </th>
                <td className="w-16 pt-2 pb-1 text-right font-semibold">{money(sum)}</td>
              </tr>
              {parts.map((p) => (
                <Row
                  key={p.key}
                  part={p}
                  most={most}
                  color={g.color}
                  open={open === p.key}
                  onOpen={() => setOpen(open === p.key ? "" : p.key)}
                />
              ))}
            </tbody>
          );
        })}
        <tfoot>
          <tr className="border-t-3 border-double border-rule-strong text-lead font-semibold">
            <th scope="row" colSpan={2} className="pt-1 text-left">
              {stack.at_least ? "A jar, at least" : "A jar"}
            </th>
            <td className="pt-1 text-right">{money(total)}</td>
          </tr>
        </tfoot>
      </table>
      {stack.lost.length > 0 && (
        <details className="group mt-2 text-body">
          <summary className="flex min-h-7.5 cursor-pointer list-none items-center justify-between hover:text-cobalt">
            <span className="flex items-center gap-1.5">
              <svg width="7" height="9" viewBox="0 0 7 9" aria-hidden="true" className="shrink-0 group-open:rotate-90">
                <path d="M1 0.500l5.500 4L1 8.500z" fill="var(--color-rule-strong)" />
              </svg>
              of it lost on the way, inside these figures
            </span>
            <b>{money(stack.losses)}</b>
          </summary>
          <dl className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-4 gap-y-1 py-1 pl-3.5 text-note">
            {stack.lost.map((p) => (
              <div key={p.key} className="contents">
                <dt>
                  {p.name} <span className="text-note text-ink-3">{p.how}</span>
                </dt>
                <dd className="text-right">{money(p.per_jar, 3)}</dd>
              </div>
            ))}
          </dl>
        </details>
      )}
      {stack.at_least && (
        <div className="mt-2">
          <Caution level="needs_you" title="It costs more than this.">
            {stack.missing.length > 0 && (
              <>
                No price for <Unpriced names={stack.missing} />.{" "}
              </>
            )}
            {stack.unsaid.length > 0 && (
              <>
                Nothing is said of {stack.unsaid.join(", ")}:{" "}
                <Link to={`/formulas/${formula}?part=pack`} className="font-semibold text-cobalt hover:underline">
                  say it on the sheet
                </Link>
                .
              </>
            )}
          </Caution>
        </div>
      )}
      {stack.stale.length > 0 && <p className="mt-2 text-note text-mustard-ink">Old prices: {stack.stale.join(", ")}.</p>}
    </section>
  );
}

function Row({ part, most, color, open, onOpen }: { part: Part; most: number; color: string; open: boolean; onOpen: () => void }) {
  const { money, day } = useFormats();
  return (
    <>
      <tr className="border-b border-rule-soft">
        <td className="max-w-0 pr-2">
          <button
            type="button"
            aria-expanded={open}
            onClick={onOpen}
            className="flex min-h-7.5 w-full items-center gap-1.5 text-left hover:text-cobalt"
            title={part.name}
          >
            <svg width="7" height="9" viewBox="0 0 7 9" aria-hidden="true" className={`shrink-0 ${open ? "rotate-90" : ""}`}>
              <path d="M1 0.500l5.500 4L1 8.500z" fill="var(--color-rule-strong)" />
            </svg>
            <span className="truncate max-desk:leading-tight max-desk:whitespace-normal">{part.name}</span>
          </button>
        </td>
        <td className="w-23">
          <span
            className="block h-2.25"
            style={{ width: part.per_jar > 0 ? `${Math.max(1.5, (100 * part.per_jar) / most)}%` : 0, background: color }}
          />
        </td>
        <td className="w-16 text-right">
          {part.missing ? <span className="text-note text-mustard-ink">no price</span> : money(part.per_jar, 3)}
        </td>
      </tr>
      {open && (
        <tr className="border-b border-rule-soft bg-paper-foot">
          <td colSpan={3} className="px-3.5 py-2 text-note leading-normal text-ink-2">
            {withDays(part.how ?? "", (d) => day(d, true)) || "Nothing is said of it."}
            {part.of && (
              <>
                {" "}
                <Link to={`/pantry/${part.of}`} className="font-semibold text-cobalt hover:underline">
                  Its page
                </Link>
              </>
            )}
            {part.component && (
              <>
                {" "}
                <Link
                  to={`/costs/${part.component.formula}/${part.component.version}`}
                  className="font-semibold text-cobalt hover:underline"
                >
                  What its own batch costs
                </Link>
              </>
            )}
          </td>
        </tr>
      )}
    </>
  );
}

/** The jar in section, filled from the bottom with what it costs; a thin line marks what is lost on the way. */
function Pot({ stack }: { stack: Stack }) {
  const { money } = useFormats();
  const total = stack.per_jar || 1;
  const height = 158;
  let y = 30 + height;
  const bands = GROUPS.map((g) => {
    const sum = sumOf(g.parts(stack));
    const h = (height * sum) / total;
    y -= h;
    return { ...g, sum, y, h };
  });
  const lost = (height * stack.losses) / total;
  const shape = "M20 30h104c12 8 16 20 16 38v92c0 18-10 28-30 28H34c-20 0-30-10-30-28V68c0-18 4-30 16-38z";
  return (
    <svg
      width="144"
      height="196"
      viewBox="0 0 144 196"
      className="shrink-0"
      role="img"
      aria-label={`A jar made of ${bands
        .filter((b) => b.sum > 0)
        .map((b) => `${b.name.toLowerCase()} ${money(b.sum)}`)
        .join(", ")}; ${money(stack.losses)} of it is lost on the way`}
    >
      <defs>
        <clipPath id="pot">
          <path d={shape} />
        </clipPath>
      </defs>
      <g clipPath="url(#pot)">
        <rect width="144" height="196" fill="#fff" />
        {bands.map((b) => (
          <rect key={b.key} y={b.y} width="144" height={b.h + 0.5} fill={b.color} />
        ))}
        {stack.losses > 0 && (
          <g>
            <rect x="0" y={188 - lost} width="144" height={lost} fill="none" stroke="#fff" strokeWidth="1.5" strokeDasharray="4 3" />
          </g>
        )}
      </g>
      <path d={shape} fill="none" stroke="var(--color-cobalt-deep)" strokeWidth="3" />
      <path d="M14 14h116v15H14z" fill="#fff" stroke="var(--color-cobalt-deep)" strokeWidth="3" />
      {bands
        .filter((b) => b.h >= 18)
        .map((b) => (
          <text
            key={b.key}
            x="72"
            y={b.y + b.h / 2 + 4.5}
            textAnchor="middle"
            fontSize="12.500"
            fontWeight="600"
            fill={b.key === "ingredients" || b.key === "toppings" ? "#fff" : "#16202e"}
          >
            {b.name === "On top of each jar" ? "on top" : b.name.toLowerCase()}
          </text>
        ))}
    </svg>
  );
}
