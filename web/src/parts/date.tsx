import { Popover } from "radix-ui";
import { type ComponentProps, type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { localMoment, today } from "../tongue/clock";
import { type DayReading, dayShown, momentShown, readDay, readMoment } from "../tongue/days";
import { tongue } from "../tongue/tongue";
import { type FieldProps, Frame } from "./form";
import { Ask } from "./number";

interface Props extends FieldProps {
  /** 2026-11-25, or 2026-11-25T19:34 of the shop's clock; empty for none. */
  value: string;
  onValue: (v: string) => void;
  /** The latest that is meant, in the same form. */
  max?: string;
}

type Rest = Omit<ComponentProps<"input">, "id" | "value" | "onChange" | "max">;

/** A day: typed as people write it, or chosen from its month. It is handed on when the field is left. */
export function DateField(props: Props & Rest) {
  return <Typed {...props} read={(t) => readDay(t)} show={(v) => dayShown(v)} />;
}

/** A day with its time of day, by the shop's clock. */
export function MomentField(props: Props & Rest) {
  return <Typed {...props} read={(t) => readMoment(t, localMoment())} show={(v) => momentShown(v)} />;
}

/** The field without its frame, for a cell of a table. What is no day stays as typed. */
export function DayCell({
  value,
  onValue,
  onSettled,
  label,
  ...rest
}: { value: string; onValue: (v: string) => void; onSettled?: () => void; label: string } & Rest) {
  const [text, setText] = useState<string | null>(null);
  const settle = () => {
    const r = text === null ? null : readDay(text);
    if (r?.kind === "value") onValue(r.value);
    setText(null);
    onSettled?.();
  };
  return (
    <input
      {...rest}
      aria-label={label}
      autoComplete="off"
      value={text ?? dayShown(value)}
      onChange={(e) => {
        setText(e.target.value);
        onValue(e.target.value);
      }}
      onBlur={settle}
    />
  );
}

function Typed({
  label,
  error,
  hint,
  unit,
  className,
  value,
  onValue,
  max,
  read,
  show,
  ...rest
}: Props & Rest & { read: (t: string) => DayReading; show: (v: string) => string }) {
  const id = useId();
  const [text, setText] = useState(value ? show(value) : "");
  const [asks, setAsks] = useState<DayReading | null>(null);
  const [bad, setBad] = useState("");
  const input = useRef<HTMLInputElement>(null);
  const latest = useRef({ value, show });
  latest.current = { value, show };
  const shownFor = useRef(value);
  useEffect(() => {
    if (shownFor.current === value) return;
    shownFor.current = value;
    setText(value ? latest.current.show(value) : "");
    setBad("");
    setAsks(null);
  }, [value]);
  useEffect(() => input.current?.setCustomValidity(bad || (asks ? "choose which day is meant" : "")), [bad, asks]);
  const put = (v: string) => {
    shownFor.current = v;
    setText(v ? show(v) : "");
    setAsks(null);
    setBad(max && v > max ? (max.startsWith(today()) ? "this has not come yet" : `${show(max)} at the latest`) : "");
    if (v !== value) onValue(v);
  };
  const settle = (t: string) => {
    const r = read(t);
    if (r.kind === "value") put(r.value);
    else if (r.kind === "empty") put("");
    else if (r.kind === "ask") setAsks(r);
    else setBad(r.why);
  };
  const said = bad || error;
  return (
    <Frame {...{ label, unit, className, id, hint }} error={asks ? "" : said}>
      <div className="relative">
        <input
          {...rest}
          ref={input}
          id={id}
          className="field pr-8!"
          autoComplete="off"
          value={text}
          aria-invalid={!!said}
          aria-describedby={said ? `${id}-e` : hint ? `${id}-h` : undefined}
          onChange={(e) => {
            setText(e.target.value);
            setBad("");
            setAsks(null);
            const r = read(e.target.value);
            if (r.kind === "value" && r.value !== value) {
              shownFor.current = r.value; // the text stands as it is typed
              onValue(r.value);
            }
          }}
          onBlur={(e) => settle(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && settle(e.currentTarget.value)}
        />
        {!rest.disabled && <Month label={label || String(rest["aria-label"] ?? "")} value={value} max={max} onPick={put} />}
      </div>
      {asks?.kind === "ask" && (
        <Ask
          label={label}
          why={asks.why}
          options={asks.options}
          onPick={(o) => {
            put(o.value);
            input.current?.focus();
          }}
        />
      )}
    </Frame>
  );
}

const utc = (day: string) => new Date(`${day}T12:00:00Z`);
const isoOf = (d: Date) => d.toISOString().slice(0, 10);
const shifted = (day: string, by: number) => {
  const d = utc(day);
  d.setUTCDate(d.getUTCDate() + by);
  return isoOf(d);
};
const monthsOn = (day: string, by: number) => {
  const d = utc(`${day.slice(0, 7)}-01`);
  d.setUTCMonth(d.getUTCMonth() + by);
  return isoOf(d);
};

/** The days of a month to choose from: one Tab stop, arrows inside. */
function Month({ label, value, max, onPick }: { label: string; value: string; max?: string; onPick: (v: string) => void }) {
  const [open, setOpen] = useState(false);
  const day = value.slice(0, 10);
  const time = value.slice(10);
  const [at, setAt] = useState(day || today());
  const grid = useRef<HTMLTableElement>(null);
  const { locale } = tongue();
  const title = new Intl.DateTimeFormat(locale, { month: "long", year: "numeric", timeZone: "UTC" });
  const weekday = new Intl.DateTimeFormat(locale, { weekday: "short", timeZone: "UTC" });
  const starts = locale.endsWith("US") ? 0 : 1; // the week begins on Sunday there
  const first = `${at.slice(0, 7)}-01`;
  const lead = (utc(first).getUTCDay() - starts + 7) % 7;
  const days = Array.from({ length: 42 }, (_, i) => shifted(first, i - lead));
  const last = max?.slice(0, 10);
  const focus = (d: string) => {
    setAt(d);
    requestAnimationFrame(() => grid.current?.querySelector<HTMLElement>(`[data-day="${d}"]`)?.focus());
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    focus(shifted(at, by));
  };
  return (
    <Popover.Root
      open={open}
      onOpenChange={(o) => {
        setOpen(o);
        if (o) focus(day || today());
      }}
    >
      <Popover.Trigger
        type="button"
        tabIndex={-1}
        aria-label={`${label}: choose the day`}
        className="absolute top-0 right-0 flex h-full w-8 items-center justify-center text-ink-3 hover:text-cobalt"
      >
        <svg width="15" height="16" viewBox="0 0 15 16" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="1.5">
          <path d="M1 3h13v12H1zM1 6.500h13M4 1v3M11 1v3" />
        </svg>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={4} className="sheet z-60 p-3" onOpenAutoFocus={(e) => e.preventDefault()}>
          <div className="mb-1 flex items-center justify-between">
            <button type="button" className="btn-quiet px-2!" aria-label="The month before" onClick={() => focus(monthsOn(at, -1))}>
              ‹
            </button>
            <b className="font-title text-lead">{title.format(utc(at))}</b>
            <button type="button" className="btn-quiet px-2!" aria-label="The month after" onClick={() => focus(monthsOn(at, 1))}>
              ›
            </button>
          </div>
          <table ref={grid} onKeyDown={onKeyDown} aria-label={title.format(utc(at))}>
            <thead>
              <tr>
                {days.slice(0, 7).map((d) => (
                  <th key={d} className="h-7 w-9 text-note font-normal text-ink-3">
                    {weekday.format(utc(d))}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {[0, 1, 2, 3, 4, 5].map((w) => (
                <tr key={w}>
                  {days.slice(w * 7, w * 7 + 7).map((d) => (
                    <td key={d} className="p-0">
                      <button
                        type="button"
                        data-day={d}
                        tabIndex={d === at ? 0 : -1}
                        aria-label={dayShown(d)}
                        aria-current={d === today() ? "date" : undefined}
                        aria-pressed={d === day}
                        disabled={!!last && d > last}
                        className={`size-9 rounded-sm text-body tabular-nums disabled:text-rule-strong ${d === day ? "bg-cobalt font-semibold text-white" : d.slice(0, 7) === at.slice(0, 7) ? "hover:bg-cobalt-tint" : "text-ink-3 hover:bg-cobalt-tint"} ${d === today() && d !== day ? "shadow-asked" : ""}`}
                        onClick={() => {
                          setOpen(false);
                          onPick(d + time);
                        }}
                      >
                        {Number(d.slice(8))}
                      </button>
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
