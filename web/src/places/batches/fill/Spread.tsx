import { useFormats } from "../../../parts/shop";
import { useWidth } from "../../../parts/width";
import { deviation, dotsOf, limitsOf, mean, type NetRule, rangeOf } from "./spread";

const TOP = 20; // above it stands what the hand aims at
const H = 140;
const BASE = 94;
const R = 6.5;
const EDGE = 34; // so far from the ends a word has room around its middle

/** Full jars on the scale of grams: where each stands against the label and the limits of the law. */
export function Spread({ rule, nets, stored }: { rule: NetRule; nets: readonly number[]; stored: boolean }) {
  const { num } = useFormats();
  const [box, W] = useWidth<HTMLDivElement>(712);
  const { t1, t2 } = limitsOf(rule);
  const range = rangeOf(rule, nets);
  const x = (g: number) => ((g - range.from) / (range.to - range.from)) * W;
  const dots = dotsOf(nets, ((2 * R + 1) / W) * (range.to - range.from));
  const m = nets.length ? mean(nets) : null;
  const s = deviation(nets);
  const near = (g: number) => Math.min(W - EDGE, Math.max(EDGE, x(g)));
  const marks = [
    ...(t2 === null ? [] : [{ g: t2, word: "none under", tone: "var(--color-beet)" }]),
    ...(t1 === null ? [] : [{ g: t1, word: "few under", tone: "var(--color-mustard-ink)" }]),
    { g: rule.nominal_g, word: "label", tone: "var(--color-ink)" },
  ];
  const words = nets.length
    ? `${nets.length} jars from ${num(Math.min(...nets), 1)} to ${num(Math.max(...nets), 1)} g, ${num(m ?? 0, 1)} g on average; the label says ${num(rule.nominal_g, 1)} g`
    : `no jar weighed yet; the label says ${num(rule.nominal_g, 1)} g`;
  return (
    <div ref={box}>
      <svg width={W} height={H} role="img" aria-label={words} className="block" data-jars={nets.length}>
        {t2 !== null && <rect x={0} y={TOP} width={Math.max(0, x(t2))} height={BASE - TOP} fill="var(--color-beet-tint)" />}
        {t1 !== null && (
          <rect
            x={t2 === null ? 0 : x(t2)}
            y={TOP}
            width={Math.max(0, x(t1) - (t2 === null ? 0 : x(t2)))}
            height={BASE - TOP}
            fill="var(--color-mustard-tint)"
          />
        )}
        <line x1={0} x2={W} y1={BASE} y2={BASE} stroke="var(--color-rule-strong)" />
        {marks.map((k) => (
          <g key={k.word}>
            <line x1={x(k.g)} x2={x(k.g)} y1={TOP} y2={BASE + 6} stroke={k.tone} strokeWidth={k.word === "label" ? 2 : 1.25} />
            <text x={near(k.g)} y={BASE + 22} textAnchor="middle" fontSize="13.5" fontWeight={k.word === "label" ? 650 : 500} fill={k.tone}>
              {num(k.g, 1)}
            </text>
            <text x={near(k.g)} y={BASE + 38} textAnchor="middle" fontSize="12" fill={k.tone}>
              {k.word}
            </text>
          </g>
        ))}
        {rule.aim_g - rule.nominal_g > 0.05 && (
          <line x1={x(rule.aim_g)} x2={x(rule.aim_g)} y1={TOP} y2={BASE} stroke="var(--color-cobalt)" strokeDasharray="3 4">
            <title>{`filled to ${num(rule.aim_g, 1)} g`}</title>
          </line>
        )}
        {rule.aim_g - rule.nominal_g > 0.05 && (
          <text x={near(rule.aim_g)} y={14} textAnchor="middle" fontSize="12" fill="var(--color-cobalt)">
            aim {num(rule.aim_g, 1)}
          </text>
        )}
        {m !== null && nets.length > 1 && (
          <g>
            <line x1={x(m - s)} x2={x(m + s)} y1={TOP + 10} y2={TOP + 10} stroke="var(--color-ink-2)" strokeWidth={2} />
            <path d={`M${x(m)} ${TOP + 3}l6 7-6 7-6-7z`} fill="var(--color-ink)" />
          </g>
        )}
        {dots.map((d) => {
          const short = t1 !== null && d.net < t1;
          const cy = BASE - R - 2 - d.row * (2 * R + 1);
          return (
            <g key={d.jar}>
              <circle
                cx={x(d.net)}
                cy={cy}
                r={R}
                fill={short ? "var(--color-beet)" : stored ? "var(--color-cobalt)" : "var(--color-cobalt-pale)"}
                stroke={short ? "var(--color-beet)" : "var(--color-cobalt)"}
                strokeWidth={1.5}
              />
              {short && <path d={`M${x(d.net) - 3} ${cy - 3}l6 6m0-6l-6 6`} stroke="#fff" strokeWidth={1.8} />}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
