import type { Schemas } from "../../api/client";

export type Recall = Schemas["RecallView"];
/** Records an act of a recall. It throws what the server refuses. */
export type Act = (entry: Schemas["NewRecallEntry"]) => Promise<void>;
export type Line = Schemas["RecallLine"];
type Account = Schemas["RecallAccount"];

/** What became of jars that are looked for, in the order of the strip: its word, its tint, how many. */
export interface Fate {
  key: "here" | "held" | "sold" | "gone" | "open" | "missing";
  word: string;
  look: string;
  jars: number;
}

/** Found jars are solid, what only the book says is hatched, what is missing is red. */
export function fates(a: Account): Fate[] {
  return [
    { key: "here", word: "found here", look: "bg-cobalt", jars: a.here },
    { key: "held", word: "set apart by who has them", look: "bg-leaf", jars: a.held },
    { key: "sold", word: "sold on or used", look: "bg-other", jars: a.sold },
    { key: "gone", word: "out of sale before", look: "bg-ink-3", jars: a.gone },
    { key: "open", word: "still to look for", look: "hatch", jars: a.open },
    { key: "missing", word: "not found", look: "bg-beet", jars: a.missing },
  ];
}

const two = (n: number) => String(n).padStart(2, "0");

/** Time that went by, as a clock shows it: 0:11:32, and days before it where there are any. */
export function elapsed(ms: number): string {
  const s = Math.max(0, Math.floor(ms / 1000));
  const days = Math.floor(s / 86_400);
  const clock = `${Math.floor(s / 3600) % 24}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`;
  return days > 0 ? `${days} d ${clock}` : clock;
}

/** The same in words: eleven minutes are "11 min". */
export function spoken(ms: number): string {
  const min = Math.round(ms / 60_000);
  if (min < 1) return "under a minute";
  if (min < 90) return `${min} min`;
  const h = Math.round(min / 6) / 10;
  return h < 48 ? `${h} h` : `${Math.round(h / 24)} days`;
}

/** Lines by batch, in the order in which they stand. */
export function byBatch(lines: readonly Line[]): { batch: number; code: string; name: string; ends: string; lines: Line[] }[] {
  const out = new Map<number, { batch: number; code: string; name: string; ends: string; lines: Line[] }>();
  for (const l of lines) {
    const b = out.get(l.batch) ?? { batch: l.batch, code: l.code, name: l.name, ends: l.ends, lines: [] };
    b.lines.push(l);
    out.set(l.batch, b);
  }
  return [...out.values()];
}

/** What a finished recall or drill says of itself, for who reads of it later. */
export function outcome(r: Schemas["RecallRow"]): string {
  const said = r.told_all ? `${spoken(Date.parse(r.told_all) - Date.parse(r.began))} until everybody was told` : "nobody had to be told";
  const told = r.account.out > 0 && !r.told_all ? "not everybody was told" : said;
  return `${told}; ${r.account.missing === 0 ? "every jar was found" : `${r.account.missing} of ${r.account.made} jars were not found`}`;
}
