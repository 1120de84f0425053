import type { Schemas } from "../../api/client";
import { DateField } from "../../parts/date";
import { useFormats } from "../../parts/shop";
import { dayAfter, strip } from "./days";

/** Six weeks as bars, each as high as much was written down; a day is picked by its bar, by arrows, or typed. */
export function DayStrip({
  days,
  day,
  today,
  onPick,
}: {
  days: readonly Schemas["DayCount"][];
  day: string;
  today: string;
  onPick: (day: string) => void;
}) {
  const f = useFormats();
  const bars = strip(days, day, today);
  const most = Math.max(1, ...bars.map((b) => b.count));
  return (
    <div className="flex items-end gap-4 px-4 pt-3 pb-2 max-tablet:flex-wrap">
      <fieldset
        className="flex h-16 min-w-0 flex-1 items-end gap-0.5"
        onKeyDown={(e) => {
          const by = e.key === "ArrowLeft" ? -1 : e.key === "ArrowRight" ? 1 : 0;
          if (by === 0) return;
          e.preventDefault();
          const next = dayAfter(day, by);
          if (next <= today) onPick(next);
        }}
      >
        <legend className="sr-only">Days</legend>
        {bars.map((b) => (
          <button
            key={b.day}
            type="button"
            tabIndex={b.day === day ? 0 : -1}
            aria-pressed={b.day === day}
            aria-label={`${f.day(b.day, true)}: ${b.count === 0 ? "nothing" : `${b.count} written down`}`}
            title={`${f.day(b.day, true)}: ${b.count}`}
            className="group flex h-full flex-1 flex-col justify-end"
            onClick={() => onPick(b.day)}
          >
            <span
              className={`block w-full ${b.day === day ? "bg-cobalt" : b.count > 0 ? "bg-wash group-hover:bg-cobalt-pale" : "bg-rule-soft"}`}
              style={{ height: `${b.count === 0 ? 2 : 5 + 43 * Math.sqrt(b.count / most)}px` }}
            />
            <span
              className={`block h-3.5 text-center text-note leading-tight ${b.day === day ? "font-semibold text-cobalt" : "text-ink-3"}`}
            >
              {b.day === day || b.monday ? Number(b.day.slice(8)) : ""}
            </span>
          </button>
        ))}
      </fieldset>
      <DateField className="w-32" label="Day" value={day} onValue={(v) => v && v <= today && onPick(v)} />
    </div>
  );
}
