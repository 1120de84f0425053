import { describe, expect, it } from "vitest";
import { draw, line, type Node, needsHand, type Trace } from "./paths";

const node = (key: string, column: number, kind = "batch", more: Partial<Node> = {}): Node => ({
  key,
  column,
  kind,
  id: 1,
  code: key,
  name: key,
  day: "",
  supplier: "",
  said: "",
  by: "",
  state: "released",
  bar: "",
  ends: "",
  received_g: 0,
  used_g: 0,
  jars: 0,
  value: null,
  frozen: false,
  asked: false,
  ...more,
});

const trace = (nodes: Node[], flows: [string, string, number, number][]): Trace => ({
  of: "lot",
  title: "",
  nodes,
  flows: flows.map(([from, to, grams, jars]) => ({ from, to, grams, jars })),
  columns: ["came in", "went into", "is now"],
  account: { made: 0, with: 0, parties: 0, here: 0, samples: 0, gone: 0, unwritten: 0 },
  took_ms: 1,
});

const small = trace(
  [
    node("lot", 0, "incoming"),
    node("b1", 1),
    node("b2", 1),
    node("cold", 2, "place", { code: "cold_room" }),
    node("gone", 2, "place", { code: "untold" }),
  ],
  [
    ["lot", "b2", 900, 0],
    ["lot", "b1", 100, 0],
    ["b1", "cold", 0, 30],
    ["b2", "cold", 0, 60],
    ["b2", "gone", 0, 6],
  ],
);

describe("the drawing of a trace", () => {
  it("puts every node into its column, none over another", () => {
    const d = draw(small, 1000, 400);
    expect(d.boxes).toHaveLength(5);
    for (const a of d.boxes)
      for (const b of d.boxes) {
        if (a === b || a.node.column !== b.node.column) continue;
        expect(a.y + a.h <= b.y || b.y + b.h <= a.y).toBe(true);
      }
    for (const b of d.boxes) expect(b.x + b.w).toBeLessThanOrEqual(1000.001);
  });
  it("draws more as wider, jars against jars and grams against grams", () => {
    const d = draw(small, 1000, 400);
    const w = (k: string) => d.bands.find((b) => b.key === k)?.width ?? 0;
    expect(w("lot b2")).toBeGreaterThan(w("lot b1"));
    expect(w("b2 cold")).toBeGreaterThan(w("b1 cold"));
    expect(w("b2 gone")).toBeLessThan(w("b1 cold"));
    expect(line(d.bands[0])).toMatch(/^M[\d.]+ [\d.]+C/);
  });
  it("keeps bands inside their boxes, however many there are", () => {
    const many = trace(
      [node("lot", 0, "incoming"), ...Array.from({ length: 40 }, (_, i) => node(`b${i}`, 1))],
      Array.from({ length: 40 }, (_, i) => ["lot", `b${i}`, 500, 0] as [string, string, number, number]),
    );
    const d = draw(many, 1000, 400);
    expect(d.height).toBeGreaterThan(400);
    for (const b of d.bands) {
      expect(b.leaves).toBeGreaterThanOrEqual(0);
      expect(b.leaves).toBeLessThanOrEqual(b.from.h);
    }
  });
  it("marks what needs a hand", () => {
    expect(needsHand(node("x", 0, "place", { code: "untold" }))).toBe(true);
    expect(needsHand(node("x", 0, "place", { code: "cold_room" }))).toBe(false);
    expect(needsHand(node("x", 0, "batch", { bar: "on hold" }))).toBe(true);
    expect(needsHand(node("x", 0))).toBe(false);
    const d = draw(small, 1000, 400);
    expect(d.bands.filter((b) => b.bad).map((b) => b.key)).toEqual(["b2 gone"]);
  });
  it("draws nothing of nothing", () => {
    expect(draw(trace([], []), 1000, 400).boxes).toEqual([]);
  });
});
