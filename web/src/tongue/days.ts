import { today } from "./clock";
import { type Tongue, tongue } from "./tongue";

/** A typed day or moment: its ISO text, or why it is none. */
export type DayReading =
  | { kind: "empty" }
  | { kind: "value"; value: string }
  | { kind: "ask"; why: string; options: { value: string; label: string }[] }
  | { kind: "wrong"; why: string };

const two = (n: number) => String(n).padStart(2, "0");
const iso = (y: number, m: number, d: number) => `${y}-${two(m)}-${two(d)}`;

/** Whether a year, month and day are one of the calendar. */
function real(y: number, m: number, d: number): boolean {
  const at = new Date(Date.UTC(y, m - 1, d));
  return y >= 1900 && y <= 2200 && at.getUTCMonth() === m - 1 && at.getUTCDate() === d;
}

const plain = (s: string) =>
  s
    .normalize("NFD")
    .replace(/[\u0300-\u036f]/g, "")
    .toLowerCase();

/** The month that a word names, in English or in the locale; 0 for none. */
function monthOf(word: string, locale: string): number {
  const w = plain(word).replace(/\.$/, "");
  if (w.length < 3) return 0;
  for (const l of ["en-GB", locale])
    for (let m = 0; m < 12; m++)
      for (const style of ["long", "short"] as const) {
        const parts = new Intl.DateTimeFormat(l, { day: "numeric", month: style, timeZone: "UTC" }).formatToParts(Date.UTC(2026, m, 1));
        const name = plain(parts.find((p) => p.type === "month")?.value ?? "").replace(/\.$/, "");
        if (name === w || (name.startsWith(w) && w.length >= 3 && style === "long")) return m + 1;
      }
  return 0;
}

/** A day with its year, in the one form of the locale. */
export function dayShown(day: string, t: Tongue = tongue()): string {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(day)) return day;
  return new Intl.DateTimeFormat(t.locale, { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" }).format(
    new Date(`${day}T00:00:00Z`),
  );
}

/** A time of day, 19:34, in the one form of the locale. */
function timeShown(time: string, t: Tongue = tongue()): string {
  return new Intl.DateTimeFormat(t.locale, { hour: "numeric", minute: "2-digit", timeZone: "UTC" })
    .format(new Date(`2026-01-01T${time}:00Z`))
    .replace(/\u202f/g, " ");
}

/** A moment of the shop's clock, 2026-11-25T19:34. */
export function momentShown(moment: string, t: Tongue = tongue()): string {
  const [day, time] = moment.split("T");
  return time ? `${dayShown(day, t)}, ${timeShown(time.slice(0, 5), t)}` : dayShown(day, t);
}

/** Reads a day as people write it: 25 Nov, Nov 25 2026, 25/11/2026, today. What two countries read differently is asked. */
export function readDay(text: string, now = today(), t: Tongue = tongue()): DayReading {
  const s = text.trim().replace(/\s+/g, " ");
  if (s === "") return { kind: "empty" };
  const value = (v: string): DayReading => ({ kind: "value", value: v });
  const wrong: DayReading = { kind: "wrong", why: `“${s}” is not a day: write it as ${dayShown(now, t)}` };
  const shift = { yesterday: -1, today: 0, tomorrow: 1 }[s.toLowerCase()];
  if (shift !== undefined) {
    const at = new Date(`${now}T12:00:00Z`);
    at.setUTCDate(at.getUTCDate() + shift);
    return value(at.toISOString().slice(0, 10));
  }
  const whole = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(s);
  if (whole) {
    const [y, m, d] = whole.slice(1).map(Number);
    return real(y, m, d) ? value(iso(y, m, d)) : wrong;
  }
  const thisYear = Number(now.slice(0, 4));
  const year = (y: string | undefined) => (y === undefined ? thisYear : y.length === 2 ? 2000 + Number(y) : Number(y));
  const named =
    /^(\d{1,2})(?:st|nd|rd|th|\.)?(?: de)? ([\p{L}.]+),?(?: de)?(?: (\d{4}|\d{2}))?$/u.exec(s) ??
    (() => {
      const m = /^([\p{L}.]+) (\d{1,2})(?:st|nd|rd|th)?,?(?: (\d{4}|\d{2}))?$/u.exec(s);
      return m && [m[0], m[2], m[1], m[3]];
    })();
  if (named) {
    const m = monthOf(named[2] ?? "", t.locale);
    const [y, d] = [year(named[3]), Number(named[1])];
    return m > 0 && real(y, m, d) ? value(iso(y, m, d)) : wrong;
  }
  const figures = /^(\d{1,2})[/. -](\d{1,2})(?:[/. -](\d{4}|\d{2}))?$/.exec(s);
  if (!figures) return wrong;
  const [a, b, y] = [Number(figures[1]), Number(figures[2]), year(figures[3])];
  const ways = [...new Set([...(real(y, b, a) ? [iso(y, b, a)] : []), ...(real(y, a, b) ? [iso(y, a, b)] : [])])];
  if (ways.length === 0) return wrong;
  if (ways.length === 1) return value(ways[0]);
  return { kind: "ask", why: `“${s}” can be read two ways`, options: ways.map((w) => ({ value: w, label: dayShown(w, t) })) };
}

/** Reads a day with its time: 25 Nov, 19:34; Nov 25, 7:34 PM; 7:34 PM of today; now. */
export function readMoment(text: string, now: string, t: Tongue = tongue()): DayReading {
  const s = text.trim().replace(/[\s\u202f]+/g, " ");
  if (s === "") return { kind: "empty" };
  if (s.toLowerCase() === "now") return { kind: "value", value: now };
  const wrong: DayReading = { kind: "wrong", why: `“${s}” is not a day and a time: write it as ${momentShown(now, t)}` };
  const m = /^(.*?)(?:,|T|,? at)? ?(\d{1,2})[:.](\d{2})(?: ?([ap])\.?m\.?)?$/i.exec(s);
  if (!m) return wrong;
  const half = m[4]?.toLowerCase();
  const hour = Number(m[2]);
  if (half ? hour < 1 || hour > 12 : hour > 23) return wrong;
  if (Number(m[3]) > 59) return wrong;
  const h = half ? (hour % 12) + (half === "p" ? 12 : 0) : hour;
  const time = `${two(h)}:${m[3]}`;
  const day =
    m[1].trim() === "" ? ({ kind: "value", value: now.slice(0, 10) } as const) : readDay(m[1].replace(/,$/, ""), now.slice(0, 10), t);
  if (day.kind === "value") return { kind: "value", value: `${day.value}T${time}` };
  if (day.kind === "ask")
    return { ...day, options: day.options.map((o) => ({ value: `${o.value}T${time}`, label: `${o.label}, ${timeShown(time, t)}` })) };
  return wrong;
}
