import { describe, expect, it } from "vitest";
import { balanceWith, deviation, dotsOf, limitsOf, mean, nextEmpty, rangeOf } from "./spread";

const rule = { nominal_g: 190, aim_g: 192, short_g: 8.6, twice: true, source: "" };

describe("the spread of full jars", () => {
  it("shows the limits of the law, and none where nobody said", () => {
    const { t1, t2 } = limitsOf(rule);
    expect(t1).toBeCloseTo(181.4);
    expect(t2).toBeCloseTo(172.8);
    expect(limitsOf({ ...rule, short_g: 0 })).toEqual({ t1: null, t2: null });
    expect(limitsOf({ ...rule, twice: false }).t2).toBeNull();
  });
  it("has room for every jar", () => {
    const r = rangeOf(rule, [150, 230]);
    expect(r.from).toBeLessThan(150);
    expect(r.to).toBeGreaterThan(230);
    const alone = rangeOf({ ...rule, short_g: 0, aim_g: 190 }, []);
    expect(alone.to).toBeGreaterThan(alone.from);
  });
  it("puts jars of one weight on each other and loses none", () => {
    const dots = dotsOf([191, 190, 191, 191.1, 195], 0.5);
    expect(dots).toHaveLength(5);
    expect(dots.filter((d) => d.net >= 191 && d.net < 192).map((d) => d.row)).toEqual([0, 1, 2]);
    expect(dots.at(-1)).toEqual({ net: 195, jar: 5, row: 0 });
    expect(new Set(dots.map((d) => d.jar)).size).toBe(5);
  });
  it("says mean and deviation of a sample", () => {
    expect(mean([191, 190.4, 192])).toBeCloseTo(191.133, 3);
    expect(deviation([191, 190.4, 192])).toBeCloseTo(0.808, 3);
    expect(deviation([191])).toBe(0);
  });
  it("fills the next empty place", () => {
    expect(nextEmpty([1, null, null])).toBe(1);
    expect(nextEmpty([1, 2])).toBe(-1);
  });
});

describe("where the grams went", () => {
  const b = {
    in_g: 10_000,
    jars_g: 9_120,
    residue_g: 0,
    samples_g: 0,
    spilt_g: 80,
    elsewhere_g: 0,
    unexplained_g: 800,
    unexplained_percent: 8,
    asks_reason: true,
    impossible: false,
  };
  it("counts what is typed before it is stored", () => {
    const next = balanceWith(b, { residue: 500, samples: 100 });
    expect(next.unexplained_g).toBe(200);
    expect(next.unexplained_percent).toBe(2);
    expect(next.asks_reason).toBe(false);
    expect(balanceWith(b, { residue: 1100, samples: 0 }).impossible).toBe(true);
    expect(balanceWith({ ...b, in_g: 0 }, { residue: 0, samples: 0 }).unexplained_percent).toBe(0);
  });
});
