import table from "../../../internal/core/amount/units.json";
import { type Tongue, tongue } from "./tongue";

/** What a field asks for. Inside, always grams, millilitres, millimetres, degrees Celsius; a count or a ratio is plain. */
export type Measure = "plain" | "mass" | "volume" | "length" | "temperature";

/** A text that a person typed, understood or not. */
export type Reading =
  | { kind: "empty" }
  | { kind: "value"; value: number; foreign: boolean }
  | { kind: "ask"; why: string; options: Option[] }
  | { kind: "wrong"; why: string };

/** One way to understand what was typed. */
export interface Option {
  value: number;
  label: string;
}

export interface Asked {
  measure?: Measure;
  /** g/mL; lets a volume stand for a mass. */
  density?: number;
  /** Below and above these a value is asked about: [least, most] in the unit of the measure. */
  reason?: readonly [number, number];
  tongue?: Tongue;
}

/** Kinds of units that only an ingredient or a kitchen knows. */
const SPOONS = new Set(["spoon", "custom", "count", "ingredient"]);

const FRACTIONS: Record<string, number> = {
  "½": 1 / 2,
  "⅓": 1 / 3,
  "⅔": 2 / 3,
  "¼": 1 / 4,
  "¾": 3 / 4,
  "⅛": 1 / 8,
  "⅜": 3 / 8,
  "⅝": 5 / 8,
  "⅞": 7 / 8,
};

interface Unit {
  unit: string;
  of: string;
  us?: string;
  imperial?: string;
  spoken?: string[];
  written?: string[];
}

/** The one table of units, which the server reads too: what a unit is in g, mL or mm, and the words for it. */
const UNITS = new Map((table as Unit[]).filter((u) => !SPOONS.has(u.of)).map((u) => [u.unit, u]));
/** Units as people write them; a spoon and a handful have no weight of their own, so no field takes them. */
const SPELT = new Map([...UNITS.values()].flatMap((u) => [...(u.spoken ?? []), ...(u.written ?? [])].map((w) => [w, u.unit])));

/** How many g, mL or mm one of a unit is, in the shop's own gallon. */
const of = (unit: string, t: Tongue) => Number(UNITS.get(unit)?.[t.gallon] ?? 0);

const NAMES: Record<Measure, string> = {
  plain: "a number",
  mass: "a mass: g, kg, oz or lb",
  volume: "a volume: mL, L, fl oz or gal",
  length: "a length: mm, cm or in",
  temperature: "a temperature: °C or °F",
};

/** The measure that a unit on a label asks for. */
export function measureOf(unit: string | undefined): Measure {
  if (unit === undefined) return "plain";
  const first = unit.split(" ")[0];
  if (unit === "g" || first === "g," || /^g (a|into|of)\b/.test(unit)) return "mass";
  if (first === "mL") return "volume";
  if (first === "mm") return "length";
  if (first === "°C") return "temperature";
  return "plain";
}

type Figure = { kind: "one"; value: number } | { kind: "two"; group: number; point: number } | null;

/** One figure without unit: groups of three, a point or a comma, a fraction. Null is none; two, where both ways are open. */
export function readFigure(text: string, t: Tongue = tongue()): Figure {
  const sign = /^\s*[-−]/.test(text) ? -1 : 1;
  const plain = text
    .trim()
    .replace(/^[-−+]\s*/, "")
    .replace(/[\u2009\u202f\u00a0]/g, " ")
    .replace(/(\d)'(?=\d{3}(\D|$))/g, "$1 ");
  const one = (value: number): Figure => (Number.isFinite(value) ? { kind: "one", value: value === 0 ? 0 : sign * value } : null);
  const glyph = /^(\d*)\s*([½⅓⅔¼¾⅛⅜⅝⅞])$/.exec(plain);
  if (glyph) return one(Number(glyph[1] || 0) + FRACTIONS[glyph[2]]);
  const broken = /^(?:(\d{1,4})\s+)?(\d{1,2})\s*[/⁄]\s*(\d{1,2})$/.exec(plain);
  if (broken) return Number(broken[3]) === 0 ? null : one(Number(broken[1] ?? 0) + Number(broken[2]) / Number(broken[3]));
  const group = t.group;
  const mark = "[.,]";
  if (/^\d+$/.test(plain)) return one(Number(plain));
  if (new RegExp(`^(\\d+${mark}\\d*|${mark}\\d+)$`).test(plain)) {
    const m = /[.,]/.exec(plain)?.[0] ?? ".";
    const point = Number(plain.replace(m, "."));
    if (m === group && /^[1-9]\d{0,2}[.,]\d{3}$/.test(plain))
      return { kind: "two", group: sign * Number(plain.replace(m, "")), point: sign * point };
    return one(point);
  }
  const spaced = /^\d{1,3}( \d{3})+([.,]\d*)?$/.exec(plain);
  if (spaced) return one(Number(plain.replaceAll(" ", "").replace(",", ".")));
  const grouped =
    /^\d{1,3}(?:,\d{3}){2,}(\.\d*)?$|^\d{1,3}(?:\.\d{3}){2,}(,\d*)?$|^\d{1,3}(?:,\d{3})+\.\d*$|^\d{1,3}(?:\.\d{3})+,\d*$/.exec(plain);
  if (grouped) {
    const last = Math.max(plain.lastIndexOf("."), plain.lastIndexOf(","));
    const kinds = new Set(plain.match(/[.,]/g));
    if (kinds.size === 1) return one(Number(plain.replace(/[.,]/g, "")));
    return one(Number(`${plain.slice(0, last).replace(/[.,]/g, "")}.${plain.slice(last + 1)}`));
  }
  return null;
}

const UNIT = /^\s*(°\s?[cf]|º\s?[cf]|deg [cf]|fl\.?\s?oz|oz\s?fl|fluid ounces?|[a-zµ]+|"|″)\.?(?![a-z])/i;
const NUMBER = /^[\s]*[-−+]?\s*(?:\d[\d.,'\s\u2009\u202f\u00a0]*(?:[/⁄]\s*\d+|[½⅓⅔¼¾⅛⅜⅝⅞])?|[.,]\d+|[½⅓⅔¼¾⅛⅜⅝⅞])/;

/** Three places hold a milligram and a thousandth of a millimetre; a temperature is kept to a hundredth. */
const settled = (value: number, measure: Measure) => Number(value.toFixed(measure === "temperature" ? 2 : measure === "plain" ? 9 : 3));

/** Factor of a unit into the unit of the measure; null where it is of another measure, a sentence where density is missing. */
function factor(unit: string, a: Required<Pick<Asked, "measure">> & Asked, t: Tongue): number | string | null {
  const kind = UNITS.get(unit)?.of;
  const density = a.density && a.density > 0 ? a.density : null;
  if (kind === a.measure) return of(unit, t);
  if (a.measure === "mass" && kind === "volume")
    return density ? of(unit, t) * density : "is a volume, and its density is not known: type a mass";
  if (a.measure === "volume" && kind === "mass")
    return density ? of(unit, t) / density : "is a mass, and the density is not known: type a volume";
  return null;
}

const asF = (c: number) => c * 1.8 + 32;
const asC = (f: number) => (f - 32) / 1.8;

/**
 * Reads what was typed into a field: one figure, or figures with units ("9 oz", "2 lb 3 oz", "185 °F"). A text with
 * anything left over is refused; a figure with two readings, or one out of reason, is asked about.
 */
export function readQuantity(text: string, asked: Asked = {}): Reading {
  const t = asked.tongue ?? tongue();
  const a = { ...asked, measure: asked.measure ?? "plain" } as const;
  if (text.trim() === "") return { kind: "empty" };
  const wrong = (why: string): Reading => ({ kind: "wrong", why });
  const not = wrong(
    `“${text.trim()}” is not ${a.measure === "plain" ? "a number" : /^[\s\d.,-]+$/.test(text) ? "a number" : NAMES[a.measure]}`,
  );
  let rest = text;
  let sum = 0;
  let foreign = false;
  let last = Number.POSITIVE_INFINITY;
  for (let n = 0; rest.trim() !== ""; n++) {
    const num = NUMBER.exec(rest);
    if (!num) return not;
    const figure = readFigure(num[0], t);
    if (!figure) return not;
    rest = rest.slice(num[0].length);
    const word = UNIT.exec(rest);
    if (rest.trim() !== "" && !word) return not;
    const spelt = word ? word[1].toLowerCase().replace(/\s+/g, " ").replace("° ", "°").replace("º ", "º") : "";
    const unit = SPELT.get(spelt) ?? spelt;
    rest = word ? rest.slice(word[0].length) : "";
    if (!word && n > 0) return not;
    if (a.measure === "plain" && word) return not;
    if (a.measure === "temperature") {
      if (rest.trim() !== "" || (word && unit !== "c" && unit !== "f") || figure.kind === "two") return not;
      const value = settled(unit === "f" ? asC(figure.value) : figure.value, "temperature");
      if (value < -273.15) return wrong(`${text.trim()} is below the coldest there is`);
      return reasoned(value, !!word, { ...a, foreign: unit === "f" }, t);
    }
    const by = word ? factor(unit, a, t) : 1;
    if (by === null) return not;
    if (typeof by === "string") return wrong(`“${text.trim()}” ${by}`);
    if (figure.kind === "two") {
      if (n > 0 || rest.trim() !== "") return not;
      const of = (x: number): Option => ({
        value: settled(x * by, a.measure),
        label: `${plainly(x, t)}${word ? ` ${word[1]}` : unitWord(a.measure)}`,
      });
      return { kind: "ask", why: `“${text.trim()}” can be read two ways`, options: [of(figure.group), of(figure.point)] };
    }
    if (n > 0 && (by >= last || figure.value < 0)) return not;
    if (n > 0 && !word) return not;
    last = by;
    sum += (n > 0 && sum < 0 ? -1 : 1) * figure.value * by;
    foreign ||= by !== 1;
  }
  return reasoned(settled(sum, a.measure), foreign, { ...a, foreign }, t);
}

const unitWord = (m: Measure) => ({ plain: "", mass: " g", volume: " mL", length: " mm", temperature: " °C" })[m];

/** A figure in full, by the locale, with thin groups. */
export function plainly(x: number, t: Tongue = tongue()): string {
  return new Intl.NumberFormat(t.locale, { maximumFractionDigits: 3 })
    .formatToParts(x)
    .map((p) => (p.type === "group" ? "\u2009" : p.value))
    .join("");
}

/** A value within reason is taken; else it is asked, as degrees Fahrenheit too where that would be within reason. */
function reasoned(value: number, told: boolean, a: Asked & { measure: Measure; foreign: boolean }, t: Tongue): Reading {
  const [low, high] = a.reason ?? [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY];
  if (value >= low && value <= high) return { kind: "value", value, foreign: a.foreign };
  const unit = unitWord(a.measure);
  const options: Option[] = [];
  const other = settled(asC(value), "temperature");
  if (a.measure === "temperature" && !told && other >= low && other <= high)
    options.push({ value: other, label: `${plainly(value, t)} °F, that is ${plainly(Number(other.toFixed(1)), t)} °C` });
  options.push({ value, label: `yes, ${plainly(value, t)}${unit}` });
  return { kind: "ask", why: `${plainly(value, t)}${unit} is out of the ordinary`, options };
}

/** The same beside it in the other units: 255.1 g is "9.00 oz". Empty where the shop does not want them or there are none. */
export function beside(value: number | null | undefined, measure: Measure, t: Tongue = tongue()): string {
  if (value == null || !t.beside || !Number.isFinite(value)) return "";
  if (measure !== "temperature" && Math.abs(value) < 0.5) return ""; // less than a hundredth of an ounce says nothing
  const fixed = (x: number, p: number) =>
    new Intl.NumberFormat(t.locale, { minimumFractionDigits: p, maximumFractionDigits: p, useGrouping: false }).format(x);
  switch (measure) {
    case "mass": {
      const oz = Number((value / of("oz", t)).toFixed(2));
      if (Math.abs(oz) < 16) return `${fixed(oz, 2)} oz`;
      const tenths = Math.round(Math.abs(value / of("oz", t)) * 10);
      return `${value < 0 ? "−" : ""}${Math.floor(tenths / 160)} lb ${fixed((tenths % 160) / 10, 1)} oz`;
    }
    case "volume": {
      const gallon = of("gal", t);
      return Math.abs(value) < gallon ? `${fixed(value / of("fl_oz", t), 1)} fl oz` : `${fixed(value / gallon, 2)} gal`;
    }
    case "length":
      return `${fixed(value / of("in", t), 2)} in`;
    case "temperature":
      return `${fixed(asF(value), 0).replace(/^-0$/, "0")} °F`;
    default:
      return "";
  }
}

/** While a thousand may still be on its way, "1,4" of "1,432", nothing is taken from what is being typed. */
export function onItsWay(text: string, t: Tongue = tongue()): boolean {
  return text.includes(t.group);
}

/** A plain number as typed, or null if the text is no number, can be read two ways, or has anything left over. */
export function readNumber(text: string, t: Tongue = tongue()): number | null {
  const r = readFigure(text, t);
  return r?.kind === "one" ? r.value : null;
}

/** A stored value as it is shown in a field, so that it is read back the same. */
export function shown(value: number, t: Tongue = tongue()): string {
  return new Intl.NumberFormat(t.locale, { maximumFractionDigits: 9, useGrouping: false }).format(value === 0 ? 0 : value);
}

/** A number with so many places, by the locale and without groups: for text inside drawings and cells. */
export function fixed(x: number, places: number, t: Tongue = tongue()): string {
  const r = Number(x.toFixed(places));
  return new Intl.NumberFormat(t.locale, { minimumFractionDigits: places, maximumFractionDigits: places, useGrouping: false }).format(
    r === 0 ? 0 : r,
  );
}
