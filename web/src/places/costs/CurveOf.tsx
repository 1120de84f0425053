import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import { marksOf, type View } from "./parts";

const WIDE = 720;
const HIGH = 216;
const AT = { left: 46, right: 14, top: 16, bottom: 26 };

const NTH = ["", "first", "second", "third", "fourth", "fifth", "sixth"];
const nth = (n: number) => NTH[n] ?? `${n}th`;

/** What a jar costs over the size of the batch, with its steps and where it is cheapest for one day's work. */
export function CurveOf({ view, onJars }: { view: View; onJars: (n: number) => void }) {
  const { money, num, shop } = useFormats();
  const { points, steps, day } = view.curve;
  const first = points[0];
  const last = points[points.length - 1];
  if (!first || !last) return null;
  const costs = points.map((p) => p.per_jar);
  const high = Math.max(...costs);
  const low = Math.min(...costs);
  const floor = Math.max(0, low - (high - low) * 0.25);
  const x = (jars: number) => AT.left + ((jars - first.jars) / Math.max(1, last.jars - first.jars)) * (WIDE - AT.left - AT.right);
  const y = (cost: number) => AT.top + ((high - cost) / (high - floor || 1)) * (HIGH - AT.top - AT.bottom);
  // one stroke a stretch without a step: what lies between two batches does not lie on a line
  const stretches: string[] = [];
  points.forEach((p, i) => {
    const before = points[i - 1];
    const broken = !before || before.loads !== p.loads || before.shifts !== p.shifts;
    const at = `${x(p.jars).toFixed(1)} ${y(p.per_jar).toFixed(1)}`;
    if (broken) stretches.push(`M${at}`);
    else stretches[stretches.length - 1] += `L${at}`;
  });
  const said = steps.slice(0, 3).map((s) => `from ${s.jars} jars a ${nth(s.n)} ${s.what}`);
  return (
    <section aria-label="Over the size of the batch">
      <h2 className="phase text-lead">Over the size of the batch</h2>
      <p className="mt-1 mb-1 text-body">
        {day ? (
          <>
            Cheapest for a day's work:{" "}
            <button type="button" className="font-semibold text-cobalt hover:underline" onClick={() => onJars(day.jars)}>
              {say("jars", { count: day.jars })}
            </button>{" "}
            at <b>{money(day.per_jar)}</b>, {num(day.minutes / 60, 1)} h of hands.
          </>
        ) : (
          "Not even the smallest of these is done in one day."
        )}{" "}
        {said.length > 0 && <span className="text-ink-2">{`${said.join(", ").replace(/^f/, "F")}.`}</span>}
      </p>
      <div
        className="sheet cursor-pointer"
        role="slider"
        tabIndex={0}
        aria-label="Jars a batch"
        aria-valuemin={first.jars}
        aria-valuemax={last.jars}
        aria-valuenow={view.jars}
        aria-valuetext={`${view.jars} jars at ${money(view.stack.per_jar)}`}
        onKeyDown={(e) => {
          const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 20, PageDown: -20 }[e.key];
          if (!by) return;
          e.preventDefault();
          onJars(Math.min(last.jars, Math.max(1, view.jars + by)));
        }}
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const at = ((e.clientX - box.left) / box.width) * WIDE;
          const jars = Math.round(first.jars + ((at - AT.left) / (WIDE - AT.left - AT.right)) * (last.jars - first.jars));
          onJars(Math.min(last.jars, Math.max(first.jars, jars)));
        }}
      >
        <svg viewBox={`0 0 ${WIDE} ${HIGH}`} className="block w-full" aria-hidden="true">
          {marksOf(floor, high).map((m) => (
            <g key={m}>
              <line x1={AT.left} x2={WIDE - AT.right} y1={y(m)} y2={y(m)} stroke="var(--color-rule-soft)" />
              <text x={AT.left - 7} y={y(m) + 4} textAnchor="end" fontSize="11.500" fill="var(--color-ink-2)">
                {money(m)}
              </text>
            </g>
          ))}
          {[20, 50, 100, 150, 200, 250, 300, 350, 400]
            .filter((m) => m >= first.jars && m <= last.jars)
            .map((m) => (
              <text
                key={m}
                x={x(m)}
                y={HIGH - 8}
                textAnchor={m === last.jars ? "end" : "middle"}
                fontSize="11.500"
                fill="var(--color-ink-2)"
              >
                {m}
                {m === 400 ? " jars" : ""}
              </text>
            ))}
          {steps.slice(0, 8).map((s) => (
            <g key={`${s.what}${s.jars}`}>
              <line
                x1={x(s.jars)}
                x2={x(s.jars)}
                y1={AT.top}
                y2={HIGH - AT.bottom}
                stroke="var(--color-rule-strong)"
                strokeDasharray="2 4"
              />
              {steps.length <= 6 && (
                <text x={x(s.jars) + 4} y={AT.top + (s.what === "shift" ? 22 : 8)} fontSize="11" fill="var(--color-ink-2)">
                  {nth(s.n)} {s.what}
                </text>
              )}
            </g>
          ))}
          {stretches.map((d) => (
            <path
              key={d.slice(0, 24)}
              d={d}
              fill="none"
              stroke="var(--color-cobalt)"
              strokeWidth="2.500"
              strokeLinejoin="round"
              strokeLinecap="round"
            />
          ))}
          {day && <circle cx={x(day.jars)} cy={y(day.per_jar)} r="4.500" fill="#fff" stroke="var(--color-leaf)" strokeWidth="2.500" />}
          {view.jars >= first.jars && view.jars <= last.jars && (
            <g>
              <circle cx={x(view.jars)} cy={y(view.stack.per_jar)} r="6" fill="var(--color-cobalt-deep)" />
              <text
                x={x(view.jars) + (x(view.jars) > WIDE - 130 ? -10 : 10)}
                y={y(view.stack.per_jar) - 9}
                fontSize="13"
                fontWeight="600"
                textAnchor={x(view.jars) > WIDE - 130 ? "end" : "start"}
                fill="var(--color-ink)"
                stroke="#fff"
                strokeWidth="4"
                paintOrder="stroke"
              >
                {view.jars}: {money(view.stack.per_jar)}
              </text>
            </g>
          )}
        </svg>
      </div>
      <p className="mt-1 text-note text-ink-3">
        {shop.currency} a jar. Press on the line for a batch of that size; the ring is the day's cheapest.
      </p>
    </section>
  );
}
