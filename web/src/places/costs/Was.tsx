import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useVariances } from "../../api/queries/costs";
import { useFormats } from "../../parts/shop";
import { signed } from "../formulas/Panel";

type Batch = Schemas["BatchVariance"];

/** What batches cost against their standard: over batches as a line, the newest in its parts, its one cause first. */
export function Was({ formula }: { formula: string }) {
  const q = useVariances(formula);
  const list = q.data?.batches ?? [];
  const [chosen, setChosen] = useState<number | null>(null);
  const b = list.find((x) => x.batch === chosen) ?? list[list.length - 1];
  if (!b) return null;
  return (
    <section aria-label="What it was">
      <h2 className="phase mb-1 text-lead">What it was</h2>
      {list.length > 1 && <Line list={list} shown={b.batch} onShow={setChosen} />}
      <VarianceOf b={b} />
    </section>
  );
}

/** The one cause in words. */
export function causeWords(b: Batch, money: (n: number, places?: number) => string): string {
  const c = b.cause;
  const by = `${money(Math.abs(c.money))} ${c.money > 0 ? "dearer" : "cheaper"}`;
  switch (c.kind) {
    case "usage":
      return `${c.money > 0 ? "More" : "Less"} ${c.name} than planned made it ${by}.`;
    case "price":
      return `The price of ${c.name} made it ${by}.`;
    case "yield":
      return `${Math.abs(b.jars_planned - b.jars_good)} jars ${c.money > 0 ? "fewer" : "more"} than planned made it ${by}.`;
    case "packaging":
      return `The pack made it ${by}.`;
    case "hands":
      return `Hands made it ${by}.`;
  }
  return "It cost what its standard says.";
}

/** One batch against its standard, adding up to the difference. */
function VarianceOf({ b }: { b: Batch }) {
  const { money, num, day, shop } = useFormats();
  const rows: [string, number][] = [
    ["grams used", b.usage],
    ["prices paid", b.price],
    ["jars that came of it", b.yield],
  ];
  const lines = b.lines.filter((l) => Math.abs(l.usage) >= 0.005 || Math.abs(l.price) >= 0.005);
  return (
    <div className="mt-2 text-body">
      <p>
        <Link to={`/batches/${b.batch}`} className="font-semibold text-cobalt hover:underline">
          {b.code}
        </Link>
        , {day(b.made_on, true)}: <b>{causeWords(b, money)}</b>
      </p>
      <dl className="mt-2 grid max-w-105 grid-cols-[minmax(0,1fr)_auto] gap-y-0.5">
        <dt className="text-ink-2">
          standard of {b.jars_good} good jars, {shop.currency}
        </dt>
        <dd className="text-right">{money(b.standard)}</dd>
        {rows.map(([name, n]) => (
          <div key={name} className="contents">
            <dt className="pl-4 text-ink-2">{name}</dt>
            <dd className="text-right">{signed(n, 2)}</dd>
          </div>
        ))}
        <dt className="border-t border-rule font-semibold">what the ingredients cost</dt>
        <dd className="border-t border-rule text-right font-semibold">{money(b.actual)}</dd>
        {b.hands && (
          <>
            <dt className="text-ink-2">hands, against {money(b.hands.standard)}</dt>
            <dd className="text-right">{signed(b.hands.actual - b.hands.standard, 2)}</dd>
          </>
        )}
        {b.packaging && (
          <>
            <dt className="text-ink-2">the pack, against {money(b.packaging.standard)}</dt>
            <dd className="text-right">{signed(b.packaging.actual - b.packaging.standard, 2)}</dd>
          </>
        )}
      </dl>
      {lines.length > 0 && (
        <table className="ledger mt-3 w-full">
          <thead>
            <tr>
              <th>Line</th>
              <th className="num">Planned, g</th>
              <th className="num">Used, g</th>
              <th className="num">By grams</th>
              <th className="num">By price</th>
            </tr>
          </thead>
          <tbody>
            {lines.map((l) => (
              <tr key={l.line} title={l.said}>
                <td>{l.name}</td>
                <td className="num">{num(l.planned_g, 1)}</td>
                <td className="num">{num(l.actual_g, 1)}</td>
                <td className="num">{signed(l.usage, 2)}</td>
                <td className="num">{signed(l.price, 2)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {b.missing.length > 0 && (
        <p className="mt-1 text-note text-mustard-ink">Nothing tells the cost of {b.missing.join(", ")}: it is in neither side.</p>
      )}
    </div>
  );
}

/** The difference of each batch in percent of its standard, as a line around nothing. */
function Line({ list, shown, onShow }: { list: Batch[]; shown: number; onShow: (batch: number) => void }) {
  const { num, day } = useFormats();
  const of = (b: Batch) => (b.standard > 0 ? (100 * b.difference) / b.standard : 0);
  const most = Math.max(2, ...list.map((b) => Math.abs(of(b))));
  const x = (i: number) => 30 + (i * 660) / Math.max(1, list.length - 1);
  const y = (n: number) => 46 - (38 * n) / most;
  return (
    <svg viewBox="0 0 720 92" className="sheet block w-full">
      <title>Each batch against its standard, in percent</title>
      <line x1="14" x2="706" y1={y(0)} y2={y(0)} stroke="var(--color-rule-strong)" />
      <path
        d={list.map((b, i) => `${i ? "L" : "M"}${x(i)} ${y(of(b))}`).join("")}
        fill="none"
        stroke="var(--color-cobalt)"
        strokeWidth="2"
      />
      {list.map((b, i) => (
        // biome-ignore lint/a11y/useSemanticElements: a point of a drawing
        <g
          key={b.batch}
          role="button"
          tabIndex={0}
          className="cursor-pointer"
          aria-label={`${b.code}, ${day(b.made_on)}: ${num(of(b), 1)} %`}
          onClick={() => onShow(b.batch)}
          onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && onShow(b.batch)}
        >
          <circle cx={x(i)} cy={y(of(b))} r="12" fill="transparent" />
          <circle
            cx={x(i)}
            cy={y(of(b))}
            r={b.batch === shown ? 6 : 4}
            fill={b.batch === shown ? "var(--color-cobalt-deep)" : "#fff"}
            stroke="var(--color-cobalt)"
            strokeWidth="2"
          />
          <text
            x={x(i)}
            y={of(b) >= 0 || y(of(b)) > 66 ? y(of(b)) - 9 : y(of(b)) + 18}
            textAnchor="middle"
            fontSize="11"
            fill="var(--color-ink-2)"
          >
            {signed(of(b), 1)} %
          </text>
        </g>
      ))}
    </svg>
  );
}
