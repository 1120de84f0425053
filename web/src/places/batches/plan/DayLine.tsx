import type { Schemas } from "../../../api/client";
import { useFormats } from "../../../parts/shop";
import { useWidth } from "../../../parts/width";

type Day = Schemas["Timetable"];
type Task = Schemas["DayTask"];

const ROW = 19;
const LEAD = 20;
const FILL: Record<string, [string, string]> = {
  hands: ["var(--color-cobalt)", "var(--color-cobalt)"],
  wait: ["var(--color-cobalt-tint)", "var(--color-cobalt)"],
  heat: ["var(--color-mustard-tint)", "var(--color-mustard)"],
  cool: ["url(#day-cools)", "var(--color-cobalt)"],
  bench: ["var(--color-cobalt-deep)", "var(--color-cobalt-deep)"],
};
const KINDS: [string, string][] = [
  ["hands", "hands"],
  ["wait", "by itself"],
  ["heat", "heat"],
  ["cool", "cooling"],
  ["bench", "at the bench"],
];

const ms = (iso: string) => new Date(iso).getTime();
const HOUR = 3_600_000;

/** The day drawn back from the hour on the bench: what is done when, and what goes on by itself. */
export function DayLine({ day }: { day: Day }) {
  const { clock, moment } = useFormats();
  const [box, wide] = useWidth<HTMLDivElement>(716);
  const width = Math.max(300, wide);
  const from = ms(day.from);
  const to = Math.max(ms(day.to), from + 2 * HOUR);
  const pad = (to - from) * 0.02;
  const x = (t: number) => ((t - from + pad) / (to - from + 2 * pad)) * width;
  const span = (to - from) / HOUR;
  const every = [1, 2, 3, 4, 6, 12, 24].find((h) => span / h <= width / 74) ?? 24;
  const height = LEAD + day.tasks.length * ROW + 4;
  return (
    <div ref={box}>
      <svg width={width} height={height} role="img" aria-label={day.tasks.map((t) => `${clock(t.from)} ${t.text}`).join("; ")}>
        <defs>
          <pattern id="day-cools" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" fill="#fff" />
            <rect width="2" height="6" fill="var(--color-wash)" />
          </pattern>
        </defs>
        {nights(from - pad, to + pad, clock).map(([a, b]) => (
          <rect key={a} x={x(a)} y={LEAD - 2} width={x(b) - x(a)} height={height} fill="var(--color-ink)" opacity="0.045" />
        ))}
        {hours(from - pad, to + pad, every, clock).map((t) => (
          <g key={t}>
            <path d={`M${x(t)} ${LEAD - 2}V${height}`} stroke="var(--color-rule-soft)" />
            {x(t) > 22 && x(t) < width - 22 && (
              <text x={x(t)} y="12" fontSize="11.500" fill="var(--color-ink-3)" textAnchor="middle">
                {clock(new Date(t).toISOString())}
              </text>
            )}
          </g>
        ))}
        <path d={`M${x(ms(day.start))} ${LEAD - 4}V${height}`} stroke="var(--color-ink)" strokeWidth="1.500" />
        {day.tasks.map((t, i) => (
          <Bar key={t.key} t={t} y={LEAD + i * ROW} x={x} width={width} title={`${moment(t.from)} to ${clock(t.to)}: ${t.text}`} />
        ))}
      </svg>
      <p className="mt-1 flex flex-wrap gap-x-4 text-note text-ink-2">
        {KINDS.filter(([k]) => day.tasks.some((t) => t.kind === k)).map(([k, text]) => (
          <span key={k} className="inline-flex items-center gap-1.5">
            <svg width="16" height="10" aria-hidden="true">
              <rect x="0.500" y="0.500" width="15" height="9" fill={FILL[k][0]} stroke={FILL[k][1]} />
            </svg>
            {text}
          </span>
        ))}
      </p>
    </div>
  );
}

/** One bar. Its words stand in it where they fit, else before it, else after it. */
function Bar({ t, y, x, width, title }: { t: Task; y: number; x: (t: number) => number; width: number; title: string }) {
  const [a, b] = [x(ms(t.from)), Math.max(x(ms(t.to)), x(ms(t.from)) + 3)];
  const hands = Math.min(b, x(ms(t.from) + t.hands_min * 60_000));
  const long = t.text.length * 6.1 + 12;
  const dark = t.kind === "hands" || t.kind === "bench";
  const inside = b - a > long && !dark;
  const before = !inside && a > long;
  const at = inside ? Math.max(hands, a) + 6 : before ? a - 6 : b + 6;
  const fits = inside ? b - Math.max(hands, a) > long - 6 : true;
  const words = fits ? at : before ? a - 6 : b + 6;
  return (
    <g>
      <title>{title}</title>
      <rect x={a} y={y + 2} width={b - a} height={13} fill={FILL[t.kind]?.[0]} stroke={FILL[t.kind]?.[1]} />
      {t.kind !== "bench" && t.kind !== "cool" && t.hands_min > 0 && (
        <rect
          x={a}
          y={y + 2}
          width={Math.max(2, hands - a)}
          height={13}
          fill="var(--color-cobalt)"
          opacity={t.kind === "heat" ? 0.85 : 1}
        />
      )}
      <text x={words} y={y + 12.5} fontSize="12" fill="var(--color-ink)" textAnchor={!inside && before ? "end" : "start"}>
        {words + long > width + 12 && !before && !inside ? `${t.text.slice(0, 24)}…` : t.text}
      </text>
    </g>
  );
}

/** The hour of a moment by the shop's clock. */
function hourOf(t: number, clock: (iso: string) => string): number {
  const [h, rest] = clock(new Date(t).toISOString()).split(":");
  return (Number(h) % 12) + (/pm/i.test(rest ?? "") ? 12 : /am/i.test(rest ?? "") ? 0 : Number(h) >= 12 ? 12 : 0);
}

function hours(from: number, to: number, every: number, clock: (iso: string) => string): number[] {
  const out: number[] = [];
  for (let t = Math.ceil(from / HOUR) * HOUR; t <= to; t += HOUR) if (hourOf(t, clock) % every === 0) out.push(t);
  return out;
}

/** From ten in the evening to five in the morning, within what is drawn. */
function nights(from: number, to: number, clock: (iso: string) => string): [number, number][] {
  const out: [number, number][] = [];
  let began: number | null = null;
  for (let t = Math.floor(from / HOUR) * HOUR; t <= to + HOUR; t += HOUR) {
    const h = hourOf(t, clock);
    const dark = h >= 22 || h < 5;
    if (dark && began === null) began = Math.max(t, from);
    if (!dark && began !== null) {
      out.push([began, Math.min(t, to)]);
      began = null;
    }
  }
  if (began !== null && began < to) out.push([began, to]);
  return out;
}
