import type { Schemas } from "../api/client";
import { fixed } from "../tongue/quantity";

export type MakeUp = Schemas["MakeUp"];

/** The fixed order of the make-up bar: one code wherever something is made of something. */
export const MAKE_UP = [
  ["fat", "fat", "var(--color-fat)"],
  ["water", "water", "var(--color-water)"],
  ["acid", "acid", "var(--color-acid)"],
  ["salt", "salt", "var(--color-salt)"],
  ["sugar", "sugar", "var(--color-sugar)"],
  ["other", "other solids", "var(--color-other)"],
] as const;

export function makeUpWords(m: MakeUp): string {
  const total = MAKE_UP.reduce((sum, [k]) => sum + m[k], 0);
  if (total <= 0) return "nothing yet";
  return MAKE_UP.filter(([k]) => m[k] / total >= 0.0005)
    .map(([k, name]) => `${name} ${fixed((100 * m[k]) / total, 1)} %`)
    .join(", ");
}

/** A bar as wide as its mass at the given scale (px per gram or percent). */
export function MakeUpBar({ makeUp, scale, height = 12, max = 160 }: { makeUp: MakeUp; scale: number; height?: number; max?: number }) {
  return (
    <span role="img" aria-label={makeUpWords(makeUp)} title={makeUpWords(makeUp)} className="flex" style={{ height, maxWidth: max }}>
      {MAKE_UP.map(([k, , color]) => {
        const width = makeUp[k] * scale;
        return width < 0.4 ? null : <span key={k} style={{ width: Math.max(1, width), background: color }} />;
      })}
    </span>
  );
}

export function MakeUpLegend() {
  return (
    <span className="flex flex-wrap gap-x-3.5 text-note text-ink-2">
      {MAKE_UP.map(([k, name, color]) => (
        <span key={k} className="inline-flex items-center gap-1.5">
          <span aria-hidden className="size-2.5" style={{ background: color }} />
          {name}
        </span>
      ))}
    </span>
  );
}

/** The legend with its figures, for one thing. */
export function MakeUpKey({ makeUp }: { makeUp: MakeUp }) {
  const total = MAKE_UP.reduce((sum, [k]) => sum + makeUp[k], 0) || 1;
  return (
    <span className="mt-1.5 flex flex-wrap gap-x-4 text-note text-ink-2">
      {MAKE_UP.map(([k, name, color]) => (
        <span key={k} className="inline-flex items-center gap-1.5">
          <span aria-hidden className="size-2.5" style={{ background: color }} />
          {name} <b className="font-semibold text-ink">{fixed((100 * makeUp[k]) / total, 1)} %</b>
        </span>
      ))}
    </span>
  );
}

/** The jar, filled with what the product is made of: percent of the mass. */
export function Jar({ makeUp, size = 128 }: { makeUp: MakeUp; size?: number }) {
  const inner = 112;
  let y = 30;
  const bands = MAKE_UP.map(([k, name, color]) => {
    const h = (inner * makeUp[k]) / 100;
    const band = { k, name, color, y, h };
    y += h;
    return band;
  });
  const empty = MAKE_UP.every(([k]) => makeUp[k] === 0);
  return (
    <svg
      width={size}
      height={(size * 150) / 128}
      viewBox="0 0 128 150"
      role="img"
      aria-label={`The jar: ${makeUpWords(makeUp)}`}
      className="shrink-0"
    >
      <defs>
        <clipPath id="jar-shape">
          <path d="M26 26h76c14 10 20 26 20 50 0 44-14 66-58 66S6 120 6 76c0-24 6-40 20-50z" />
        </clipPath>
      </defs>
      <g clipPath="url(#jar-shape)">
        <rect width="128" height="150" fill="#fff" />
        {!empty && bands.map((b) => <rect key={b.k} y={b.y} width="128" height={b.h + 0.5} fill={b.color} />)}
      </g>
      <path
        d="M26 26h76c14 10 20 26 20 50 0 44-14 66-58 66S6 120 6 76c0-24 6-40 20-50z"
        fill="none"
        stroke="var(--color-cobalt-deep)"
        strokeWidth="3"
      />
      <path d="M18 12h92v13H18z" fill="#fff" stroke="var(--color-cobalt-deep)" strokeWidth="3" />
      {empty && (
        <text x="64" y="92" textAnchor="middle" fontSize="12.5" fill="var(--color-ink-3)">
          empty
        </text>
      )}
      {bands
        .filter((b) => b.h >= 15 && (b.k === "fat" || b.k === "water" || b.k === "sugar"))
        .map((b) => (
          <text key={b.k} x="64" y={b.y + b.h / 2 + 4.5} textAnchor="middle" fontSize="12.5" fontWeight="600" fill="#22303f">
            {b.name} {fixed(makeUp[b.k], 1)} %
          </text>
        ))}
    </svg>
  );
}
