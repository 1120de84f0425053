import { useId } from "react";
import { fixed } from "../tongue/quantity";

interface PhMark {
  ph: number;
  label: string;
}

interface Props {
  low?: number | null;
  high?: number | null;
  target: number;
  limit: number;
  marks?: PhMark[];
  value?: number | null;
  width?: number;
  height?: number;
}

/**
 * The pH axis. An estimate is a hatched band, a measurement a solid mark; target and limit stand in both.
 */
export function PhAxis({ low, high, target, limit, marks = [], value, width = 352, height = 82 }: Props) {
  const hatch = useId();
  const all = [low, high, target, limit, value, ...marks.map((m) => m.ph)].filter((x): x is number => typeof x === "number");
  let from = Math.floor(Math.min(3, ...all.map((x) => x - 0.1)) * 2) / 2;
  let to = Math.ceil(Math.max(5, ...all.map((x) => x + 0.1)) * 2) / 2;
  if (to - from > 5) {
    from = Math.floor(from);
    to = Math.ceil(to);
  }
  const pad = 6;
  // Room for the limit's word to its right.
  while (((to - limit) / (to - from)) * (width - 2 * pad) < 54) to += 0.5;
  const x = (p: number) => pad + ((p - from) / (to - from)) * (width - 2 * pad);
  const step = to - from > 3 ? 1 : 0.5;
  const ticks: number[] = [];
  for (let t = from; t <= to + 1e-9; t += step) ticks.push(t);
  const base = height - 24;
  const words = [
    low != null && high != null ? `estimate ${fixed(low, 2)} to ${fixed(high, 2)}` : "",
    ...marks.map((m) => `${m.label} ${fixed(m.ph, 2)}`),
    value != null ? `decision value ${fixed(value, 2)}` : "",
    `target ${target}`,
    `limit ${limit}`,
  ].filter(Boolean);
  const bandText = low != null && high != null ? `${fixed(low, 2)} to ${fixed(high, 2)}` : "";
  const bandX = low != null && high != null ? Math.min(Math.max(x((low + high) / 2), 46), width - 46) : 0;
  const targetX = x(target);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={`pH: ${words.join(", ")}`}
      className="block max-w-full"
    >
      <defs>
        <pattern id={hatch} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--color-cobalt-tint)" />
          <path d="M0 0v6" stroke="var(--color-cobalt)" strokeWidth="2.2" />
        </pattern>
      </defs>
      <path d={`M${pad} ${base}H${width - pad}`} stroke="var(--color-rule-strong)" />
      {ticks.map((t) => (
        <g key={t}>
          <path d={`M${x(t)} ${base - 4}v8`} stroke="var(--color-rule-strong)" />
          <text
            x={x(t)}
            y={height - 5}
            textAnchor={t === from ? "start" : t >= to - 1e-9 ? "end" : "middle"}
            fontSize="12"
            fill="var(--color-ink-2)"
          >
            {fixed(t, 1)}
          </text>
        </g>
      ))}
      {low != null && high != null && (
        <rect
          x={x(low)}
          y={base - 18}
          width={Math.max(2, x(high) - x(low))}
          height={18}
          fill={`url(#${hatch})`}
          stroke="var(--color-cobalt)"
        />
      )}
      <path d={`M${targetX} ${base - 42}v46`} stroke="var(--color-mustard)" strokeWidth="2" strokeDasharray="4 2" />
      <text x={targetX + 1} y={base - 45} textAnchor="end" fontSize="12" fontWeight="600" fill="var(--color-mustard-ink)">
        target {target}
      </text>
      <path d={`M${x(limit)} ${base - 54}v58`} stroke="var(--color-beet)" strokeWidth="2" />
      <text x={x(limit) + 5} y={base - 45} textAnchor="start" fontSize="12" fontWeight="600" fill="var(--color-beet)">
        limit {limit}
      </text>
      {marks.map((m, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two readings may be alike in everything
        <path key={i} d={`M${x(m.ph)} ${base - 9}l5 5-5 5-5-5z`} fill="var(--color-cobalt)">
          <title>
            {m.label} {fixed(m.ph, 2)}
          </title>
        </path>
      ))}
      {value != null && (
        <g>
          <path d={`M${x(value)} ${base - 20}v24`} stroke="var(--color-cobalt-deep)" strokeWidth="3" />
        </g>
      )}
      {bandText && (
        <text
          x={bandX}
          y={base - 25}
          textAnchor="middle"
          fontWeight="600"
          fontSize="14"
          fill="var(--color-ink)"
          stroke="var(--color-glaze)"
          strokeWidth="4"
          paintOrder="stroke"
        >
          {bandText}
        </text>
      )}
    </svg>
  );
}
