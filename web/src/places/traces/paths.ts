import type { Schemas } from "../../api/client";

export type Trace = Schemas["TraceView"];
export type Node = Schemas["TraceNode"];

interface Box {
  node: Node;
  x: number;
  y: number;
  w: number;
  h: number;
}

export interface Band {
  key: string;
  from: Box;
  to: Box;
  /** In px, at its two ends the same. */
  width: number;
  /** Where it leaves and arrives, below the top of its box. */
  leaves: number;
  arrives: number;
  bad: boolean;
}

interface Drawing {
  boxes: Box[];
  bands: Band[];
  width: number;
  height: number;
  heads: { word: string; x: number }[];
}

const GAP = 6;
const WIDEST = 15;
const THINNEST = 1.5;

/** Whether jars or lots of a node need somebody. */
export const needsHand = (n: Node) =>
  n.kind === "place" ? n.code === "untold" || n.code === "returned" : !!n.bar || n.state === "called_back" || n.state === "rejected";

/**
 * Boxes in columns, each near the middle of what it is tied to, and bands between them as wide as what flows: grams among
 * lots, jars into places, each against the greatest of its kind.
 */
export function draw(t: Trace, width: number, least: number): Drawing {
  const columns: Node[][] = [];
  for (const n of t.nodes) {
    columns[n.column] ??= [];
    columns[n.column].push(n);
  }
  const count = columns.length;
  const gutter = count > 4 || width < 900 ? 46 : 76;
  const w = (width - gutter * (count - 1)) / count;
  const rows = Math.max(1, ...columns.map((c) => c?.length ?? 0));
  const h = Math.max(38, Math.min(58, least / rows - GAP));
  const height = Math.max(least, rows * (h + GAP));
  const order = ordered(columns, t.flows);
  const boxes: Box[] = [];
  const at = new Map<string, Box>();
  order.forEach((list, c) => {
    const room = height / list.length;
    list.forEach((node, i) => {
      const box = { node, x: c * (w + gutter), y: i * room + (room - h) / 2, w, h };
      boxes.push(box);
      at.set(node.key, box);
    });
  });
  return { boxes, bands: bandsOf(t, at, h), width, height, heads: t.columns.map((word, c) => ({ word, x: c * (w + gutter) })) };
}

/** Each column in the order of the middles of what its nodes are tied to before it; two rounds settle it. */
function ordered(columns: Node[][], flows: Trace["flows"]): Node[][] {
  const out = columns.map((c) => [...(c ?? [])]);
  const place = new Map<string, number>();
  const note = () => {
    for (const list of out) for (const [i, n] of list.entries()) place.set(n.key, (i + 0.5) / list.length);
  };
  note();
  const middle = (n: Node, side: "from" | "to") => {
    const other = side === "from" ? "to" : "from";
    const ties = flows.filter((f) => f[side] === n.key).map((f) => place.get(f[other]) ?? 0.5);
    return ties.length ? ties.reduce((a, b) => a + b, 0) / ties.length : (place.get(n.key) ?? 0.5);
  };
  for (let round = 0; round < 2; round++) {
    for (let c = 1; c < out.length; c++) {
      if (out[c].every((n) => n.kind === "place")) continue; // in the order of a jar's way
      const mid = new Map(out[c].map((n) => [n.key, middle(n, "to")]));
      out[c].sort((x, y) => (mid.get(x.key) ?? 0) - (mid.get(y.key) ?? 0));
      note();
    }
    for (let c = out.length - 2; c >= 0; c--) {
      const mid = new Map(out[c].map((n) => [n.key, middle(n, "from")]));
      out[c].sort((x, y) => (mid.get(x.key) ?? 0) - (mid.get(y.key) ?? 0));
      note();
    }
  }
  return out;
}

function bandsOf(t: Trace, at: Map<string, Box>, h: number): Band[] {
  const most = { grams: Math.max(1, ...t.flows.map((f) => f.grams)), jars: Math.max(1, ...t.flows.map((f) => f.jars)) };
  const bands: Band[] = [];
  for (const f of t.flows) {
    const from = at.get(f.from);
    const to = at.get(f.to);
    if (!from || !to) continue;
    const share = f.jars > 0 ? f.jars / most.jars : f.grams / most.grams;
    const width = THINNEST + (Math.min(WIDEST, h * 0.4) - THINNEST) * share;
    bands.push({
      key: `${f.from} ${f.to}`,
      from,
      to,
      width,
      leaves: 0,
      arrives: 0,
      bad: needsHand(to.node) || (needsHand(from.node) && f.jars > 0),
    });
  }
  share(bands, "from", "to", "leaves", h);
  share(bands, "to", "from", "arrives", h);
  return bands;
}

/** Bands at one side of a box side by side, in the order of where they come from, around its middle. */
function share(bands: Band[], own: "from" | "to", other: "from" | "to", into: "leaves" | "arrives", h: number) {
  const by = new Map<Box, Band[]>();
  for (const b of bands) by.set(b[own], [...(by.get(b[own]) ?? []), b]);
  for (const list of by.values()) {
    list.sort((x, y) => x[other].y - y[other].y);
    const sum = list.reduce((a, b) => a + b.width, 0);
    const squeeze = Math.min(1, (h - 8) / sum);
    let y = (h - sum * squeeze) / 2;
    for (const b of list) {
      b[into] = y + (b.width * squeeze) / 2;
      y += b.width * squeeze;
    }
  }
}

/** The line of a band. */
export function line(b: Band): string {
  const x1 = b.from.x + b.from.w;
  const y1 = b.from.y + b.leaves;
  const x2 = b.to.x;
  const y2 = b.to.y + b.arrives;
  const bend = Math.max(18, (x2 - x1) / 2);
  return `M${x1} ${y1}C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`;
}
