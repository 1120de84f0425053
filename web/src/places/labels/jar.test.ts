import { expect, test } from "vitest";
import { lighter, overlapping, sheets, silhouette, wrapped } from "./jar";

const round = { id: "r", name: "round", ml: 205, shape: "round", height_mm: 100, diameter_mm: 65, lid_mm: 12, wall_mm: 66 };

test("a jar is as wide and high as its sizes, and its wall lies under the lid and over the base", () => {
  const s = silhouette(round);
  expect([s.wide, s.high]).toEqual([65, 100]);
  expect(s.wallTop).toBeGreaterThan(s.lid);
  expect(s.wallTop + s.wall).toBeLessThan(100);
  expect(silhouette({ ...round, shape: "sided", width_mm: 60 }).wide).toBe(60);
});

test("a label around a jar is seen as far as the jar's edge, narrower towards it", () => {
  const strips = wrapped(190, 30, 32.5);
  const seen = strips.reduce((sum, s) => sum + s.seen, 0);
  expect(seen).toBeCloseTo(32.5 + 32.5 * Math.sin(30 / 32.5), 5);
  expect(strips[0].at).toBe(0);
  const last = strips[strips.length - 1];
  expect(last.x + last.seen).toBeCloseTo(32.5, 5);
  expect(last.seen).toBeLessThan(last.wide / 8);
  const facing = strips.find((p) => p.at <= 30 && p.at + p.wide > 30);
  expect(facing?.seen).toBeCloseTo(facing?.wide ?? 0, 1);
});

test("a narrow label is seen whole", () => {
  const strips = wrapped(40, 20, 32.5);
  expect(strips.reduce((sum, s) => sum + s.wide, 0)).toBeCloseTo(40, 5);
  expect(strips[0].x).toBeCloseTo(-32.5 * Math.sin(20 / 32.5), 5);
});

test("a strip goes on under its neighbour, and the last ends where the label does", () => {
  const strips = wrapped(190, 30, 32.5);
  const over = overlapping(strips, 0.7);
  over.forEach((s, i) => {
    const next = strips[i + 1];
    const end = s.x + s.seen;
    if (!next) expect(end).toBeCloseTo(32.5, 5);
    else {
      expect(end).toBeGreaterThan(next.x);
      expect(end).toBeLessThanOrEqual(next.x + next.seen + 1e-9);
    }
    expect(s.wide / s.seen).toBeCloseTo(strips[i].wide / strips[i].seen, 9);
  });
});

test("a run on sheets counts its sheets and what stays blank", () => {
  expect(sheets(58, 1, 4, 8)).toEqual({ sheets: 8, blank: 3 });
  expect(sheets(6, 2, 1, 8)).toEqual({ sheets: 2, blank: 4 });
  expect(sheets(8, 1, 1, 8)).toEqual({ sheets: 1, blank: 0 });
});

test("a colour takes white", () => {
  expect(lighter("#000000", 0.5)).toBe("#808080");
  expect(lighter("#ffffff", 0.3)).toBe("#ffffff");
  expect(lighter("none", 0.3)).toMatch(/^#/);
});
