/** Where the shop's days begin; every day and moment on screen is one of the shop's own. */
let zone = "UTC";

export function setZone(name: string) {
  zone = name || "UTC";
}

const two = (n: number) => String(n).padStart(2, "0");

/** Year to minute of a moment, by the clock on the shop's wall. */
function wall(d: Date): Record<string, string> {
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  }).formatToParts(d);
  return Object.fromEntries(parts.map((p) => [p.type, p.value]));
}

/** The shop's calendar day as 2026-11-25. */
export function today(d = new Date()): string {
  const w = wall(d);
  return `${w.year}-${w.month}-${w.day}`;
}

/** A day so many days from today. */
export function dayFrom(days: number, d = new Date()): string {
  const at = new Date(`${today(d)}T12:00:00Z`);
  at.setUTCDate(at.getUTCDate() + days);
  return `${at.getUTCFullYear()}-${two(at.getUTCMonth() + 1)}-${two(at.getUTCDate())}`;
}

/** A moment for a datetime-local input, by the shop's clock. */
export function localMoment(d = new Date()): string {
  const w = wall(d);
  return `${today(d)}T${w.hour}:${w.minute}`;
}

/** A datetime-local value of the shop's clock as RFC 3339; empty where it is none. */
export function toISO(local: string): string {
  const asUTC = new Date(`${local}Z`);
  if (Number.isNaN(asUTC.getTime())) return "";
  // The offset at a moment is read from the clock there; twice, for the hours around a change of clocks.
  let at = asUTC;
  for (let i = 0; i < 2; i++) {
    const off = new Date(`${localMoment(at)}Z`).getTime() - Math.floor(at.getTime() / 60_000) * 60_000;
    at = new Date(asUTC.getTime() - off);
  }
  return at.toISOString();
}
