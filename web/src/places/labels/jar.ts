import type { Schemas } from "../../api/client";

type Jar = Schemas["Jar"];

/** How a jar looks from the front, in mm from its top left: lid, silhouette, and where its straight wall lies. */
export function silhouette(j: Jar) {
  const wide = j.shape === "round" ? (j.diameter_mm ?? 0) : (j.width_mm ?? 0);
  const high = j.height_mm ?? 0;
  const lid = j.lid_mm ?? 0;
  const wall = j.wall_mm ?? 0;
  const left = Math.max(0, high - lid - wall);
  const base = Math.min(left * 0.45, 9);
  const shoulder = left - base;
  const neck = wide * 0.06;
  const round = Math.min(base * 1.6, wide * 0.16);
  const path = [
    `M${neck} ${lid}`,
    `C${neck * 0.2} ${lid + shoulder * 0.45} 0 ${lid + shoulder * 0.6} 0 ${lid + shoulder}`,
    `V${high - round}`,
    `Q0 ${high} ${round} ${high}`,
    `H${wide - round}`,
    `Q${wide} ${high} ${wide} ${high - round}`,
    `V${lid + shoulder}`,
    `C${wide} ${lid + shoulder * 0.6} ${wide - neck * 0.2} ${lid + shoulder * 0.45} ${wide - neck} ${lid}`,
    "Z",
  ].join(" ");
  return { wide, high, lid, wall, wallTop: lid + shoulder, lidLeft: neck * 0.55, path };
}

/** A part of a label as it lies on a round jar: from where on the paper, and where it is seen. */
export interface Strip {
  at: number;
  wide: number;
  x: number;
  seen: number;
}

const STEP_MM = 5;

/**
 * The strips of a label of a width that is wrapped around a cylinder of a radius, seen from the front. `middle` is the place
 * of the label that faces the eye; x counts from the middle of the jar. What is behind the jar is left out.
 */
export function wrapped(width: number, middle: number, radius: number): Strip[] {
  const out: Strip[] = [];
  const edge = (Math.PI / 2) * radius;
  const from = Math.max(0, middle - edge);
  const to = Math.min(width, middle + edge);
  const n = Math.max(1, Math.ceil((to - from) / STEP_MM));
  for (let i = 0; i < n; i++) {
    const at = from + ((to - from) * i) / n;
    const wide = (to - from) / n;
    const x = radius * Math.sin((at - middle) / radius);
    const end = radius * Math.sin((at + wide - middle) / radius);
    out.push({ at, wide, x, seen: end - x });
  }
  return out;
}

/** Strips that each run on under the next by so much and no further. The last ends with the label. */
export function overlapping(strips: readonly Strip[], by: number): Strip[] {
  return strips.map((s, i) => {
    const seen = s.seen + Math.min(by, strips[i + 1]?.seen ?? 0);
    return { ...s, seen, wide: (s.wide * seen) / s.seen };
  });
}

/** A colour as #rrggbb with so much white in it. */
export function lighter(colour: string, white: number): string {
  const part = (i: number) => {
    const c = Number.parseInt(colour.slice(i, i + 2), 16);
    return Math.round(c + (255 - c) * white)
      .toString(16)
      .padStart(2, "0");
  };
  return /^#[0-9a-f]{6}$/.test(colour) ? `#${part(1)}${part(3)}${part(5)}` : "#e6d3b3";
}

/** How many sheets a run takes from a place on, and how many places stay blank on the last. */
export function sheets(count: number, pieces: number, place: number, per: number) {
  const taken = place - 1 + count * pieces;
  const n = Math.ceil(taken / per);
  return { sheets: n, blank: n * per - taken };
}
