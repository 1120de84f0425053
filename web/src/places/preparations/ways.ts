import type { Schemas } from "../../api/client";

export type RouteData = Schemas["RouteView"];
export type PreparationData = Schemas["PreparationView"];

/** char_and_peel as people say it. */
export function stepWords(name: string): string {
  return name.replaceAll("_", " ");
}

/** Whether two names begin with the same word, singular or plural: lentils boiled, lentils tinned. */
export function sharesWord(a: string, b: string): boolean {
  const first = (s: string) => s.toLowerCase().split(/[ ,(]/)[0].replace(/e?s$/, "");
  return first(a) === first(b);
}

/** What a way leaves over of its outputs, in words. */
export function left(r: RouteData, num: (n: number, p?: number) => string): string {
  const parts: string[] = [];
  if (r.co_surplus_g > 0.05) parts.push(`${num(r.co_surplus_g, 0)} g ${r.co_name}`);
  if (r.out_surplus_g > 0.05) parts.push(`${num(r.out_surplus_g, 0)} g ${r.out_name}`);
  return parts.join(" and ") || "nothing";
}
