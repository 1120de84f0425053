import type { Schemas } from "../../api/client";

export type View = Schemas["CostView"];
export type Stack = Schemas["Stack"];
export type Part = Schemas["CostPart"];
export type Change = Schemas["CostChange"];

/** The groups of a jar's cost in the order they are spent, with the tint each has in every drawing. */
export const GROUPS = [
  { key: "ingredients", name: "Ingredients", color: "#1f3f93", parts: (s: Stack) => s.lines },
  { key: "toppings", name: "On top of each jar", color: "#3d5fb0", parts: (s: Stack) => s.toppings },
  { key: "packaging", name: "The pack", color: "#7a94d2", parts: (s: Stack) => s.items },
  { key: "labour", name: "Hands", color: "#a9bbe4", parts: (s: Stack) => s.hands },
  { key: "overhead", name: "Kitchen", color: "#d3dcf0", parts: (s: Stack) => s.rooms },
] as const;

/** What a group comes to. */
export const sumOf = (parts: Part[]): number => parts.reduce((n, p) => n + p.per_jar, 0);

/** A nice round step so that an axis has four to seven marks. */
export function stepOf(span: number): number {
  if (!(span > 0)) return 1;
  const rough = span / 5;
  const ten = 10 ** Math.floor(Math.log10(rough));
  return [1, 2, 2.5, 5, 10].map((k) => k * ten).find((s) => s >= rough) ?? ten * 10;
}

/** The marks of an axis from low to high. */
export function marksOf(low: number, high: number): number[] {
  const step = stepOf(high - low);
  const out: number[] = [];
  for (let k = Math.ceil(low / step - 1e-9); k * step <= high + 1e-9; k++) out.push(Number((k * step).toFixed(6)));
  return out;
}

/** A text with its calendar days in the shop's form. */
export const withDays = (text: string, day: (d: string) => string): string => text.replace(/\b\d{4}-\d{2}-\d{2}\b/g, day);

/** The words of a what-if. */
export function changeWords(c: Change, name: string, num: (n: number, places?: number) => string): string {
  const by = `${c.percent > 0 ? "up" : "down"} ${num(Math.abs(c.percent), Number.isInteger(c.percent) ? 0 : 1)} %`;
  switch (c.kind) {
    case "jar":
      return `a jar of ${c.to} g`;
    case "way":
    case "swap":
    case "pack":
      return name;
    case "hands":
      return `an hour of hands ${by}`;
    case "rooms":
      return `kitchen ${by}`;
    default:
      return `${name} ${by}`;
  }
}
