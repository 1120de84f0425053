import type { Schemas } from "../../api/client";
import { useFormats } from "../../parts/shop";
import { type Line, spoken } from "./roles";

type Reading = Schemas["RecipeReading"];

const NOTICE_OPTIONS: Record<string, string> = {
  double: "no, double every amount",
  single: "yes, as they stand",
  apart: "read each by itself",
  one: "it is one recipe",
};

/** What is still to weigh or to answer, on top, each with a way to its line. */
export function OpenPoints({
  lines,
  notices,
  onShow,
  onNext,
  onNotice,
}: {
  lines: Line[];
  notices: Schemas["Notice"][];
  onShow: (key: string) => void;
  onNext: () => void;
  onNotice: (code: string, option: string) => void;
}) {
  if (lines.length === 0 && notices.length === 0) return null;
  return (
    <section aria-label="Still open" className="mt-2 border-l-4 border-mustard pl-3">
      {notices.map((n) => (
        <p key={n.code} className="text-note">
          {n.text}{" "}
          {(n.options ?? []).map((o) => (
            <button
              key={o}
              type="button"
              className="mr-1 min-h-7 rounded-sm border border-rule-strong bg-white px-2 hover:border-cobalt hover:text-cobalt"
              onClick={() => onNotice(n.code, o)}
            >
              {NOTICE_OPTIONS[o] ?? o}
            </button>
          ))}
        </p>
      ))}
      <ul className="flex flex-wrap gap-x-1 gap-y-1">
        {lines.slice(0, 14).map((l) => (
          <li key={l.key + l.ingredient}>
            <button
              type="button"
              onClick={() => onShow(l.key)}
              className="min-h-7 max-w-65 truncate rounded-sm border border-mustard bg-mustard-tint px-2 text-note text-mustard-ink hover:border-ink"
            >
              <b className="font-semibold">{l.kind !== "line" ? "answer" : l.ingredient ? (l.to_weigh ? "weigh" : "answer") : "name"}</b>{" "}
              {l.name || spoken(l)}
            </button>
          </li>
        ))}
        {lines.length > 14 && <li className="self-center text-note text-ink-2">and {lines.length - 14} more below</li>}
        {lines.length > 0 && (
          <li>
            <button type="button" className="min-h-7 px-2 text-note font-semibold text-cobalt hover:underline" onClick={onNext}>
              next open point <kbd className="font-sans font-normal text-ink-3">Alt ↓</kbd>
            </button>
          </li>
        )}
      </ul>
    </section>
  );
}

/** The total with its spread, the yield that was stated, and what to weigh first. */
export function Beside({ reading: r, onShow }: { reading: Reading; onShow: (key: string) => void }) {
  const { num } = useFormats();
  const low = r.total_g - r.deviation_g;
  const high = r.total_g + r.deviation_g;
  const reach = Math.max(high, r.said_g ?? 0, r.said_ml ?? 0, 1) * 1.08;
  const x = (g: number) => (272 * g) / reach;
  return (
    <aside aria-label="What it adds up to" className="w-68 shrink-0 overflow-y-auto pr-1 max-tablet:w-full">
      <div className="figure leading-none font-semibold tracking-tight">
        {num(r.total_g, 0)}
        <small className="ml-1.5 text-lead font-medium tracking-normal text-ink-2">g into the bowl</small>
      </div>
      <svg
        width="272"
        height="44"
        viewBox="0 0 272 44"
        role="img"
        aria-label={`Total ${num(low, 0)} to ${num(high, 0)} g`}
        className="mt-2 block"
      >
        <defs>
          <pattern id="reader-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" fill="var(--color-cobalt-tint)" />
            <path d="M0 0v6" stroke="var(--color-cobalt)" strokeWidth="2.2" />
          </pattern>
        </defs>
        <path d="M0 20H272" stroke="var(--color-rule-strong)" />
        <rect x="0" y="6" width={x(Math.max(0, low))} height="14" fill="var(--color-wash)" />
        <rect
          x={x(Math.max(0, low))}
          y="6"
          width={Math.max(2, x(high) - x(Math.max(0, low)))}
          height="14"
          fill="url(#reader-hatch)"
          stroke="var(--color-cobalt)"
        />
        {(r.said_g ?? r.said_ml) != null && (
          <>
            <path d={`M${x(r.said_g ?? r.said_ml ?? 0)} 0v26`} stroke="var(--color-mustard)" strokeWidth="2" strokeDasharray="4 2" />
            <text x={Math.min(266, x(r.said_g ?? r.said_ml ?? 0))} y="40" textAnchor="end" fontSize="12" fill="var(--color-mustard-ink)">
              said: {num(r.said_g ?? r.said_ml ?? 0, 0)} {r.said_g != null ? "g" : "mL"}
            </text>
          </>
        )}
      </svg>
      <p className="text-note text-ink-2">
        one standard deviation: ±{num(r.deviation_g, 0)} g{r.total_g > 0 && <> or {num((100 * r.deviation_g) / r.total_g, 1)} %</>}
      </p>
      {r.claim_days != null && (
        <p className="mt-3 border-l-4 border-mustard bg-mustard-tint px-2 py-1 text-note text-mustard-ink">
          You say it keeps <b>{r.claim_days} days</b>. That is no storage life: what the rules allow stands on its sheet, and a reading
          decides.
        </p>
      )}
      <h2 className="phase mt-4 text-lead">Weigh these three first</h2>
      {r.weigh_first.length === 0 && <p className="text-note text-ink-2">Nothing is uncertain: every line was weighed.</p>}
      <ol className="grid gap-2.5">
        {r.weigh_first.map((w) => (
          <li key={w.key + w.name}>
            <button
              type="button"
              className="block w-full truncate text-left text-body font-semibold hover:text-cobalt"
              onClick={() => onShow(w.key)}
            >
              {w.name}
            </button>
            <dl className="grid grid-cols-[56px_1fr_40px] items-center gap-x-2 text-note text-ink-2">
              {(
                [
                  ["mass", w.mass_percent, "var(--color-wash)"],
                  ["acid", w.acid_percent, "var(--color-acid)"],
                  ["salt", w.salt_percent, "var(--color-salt)"],
                ] as const
              ).map(([k, v, color]) => (
                <div key={k} className="contents">
                  <dt>{k}</dt>
                  <dd className="h-1.75 bg-glaze-deep">
                    <span className="block h-full" style={{ width: `${v}%`, background: color }} />
                  </dd>
                  <dd className="text-right">{num(v, 0)} %</dd>
                </div>
              ))}
            </dl>
            <p className="text-note text-ink-2">its own percent may be off by {num(w.of_formula_percent, 2)}</p>
          </li>
        ))}
      </ol>
      {r.weigh_first.length > 0 && <p className="mt-2 text-note text-ink-3">Shares of what makes the whole uncertain.</p>}
    </aside>
  );
}
