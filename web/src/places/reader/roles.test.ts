import { describe, expect, it } from "vitest";
import { isOpen, type Line, ownMeasure, pieces, spread } from "./roles";

describe("pieces", () => {
  it("covers every word once, marked or not", () => {
    const words = "½ cup “odd” kale 🥬 leaves";
    const out = pieces(words, [
      { from: 0, to: 1, role: "quantity" },
      { from: 2, to: 5, role: "unit" },
      { from: 12, to: 16, role: "ingredient" },
    ]);
    expect(out.map((p) => p.text).join("")).toBe(words);
    expect(out.find((p) => p.role === "ingredient")?.text).toBe("kale");
  });
  it("survives marks that overlap or run past the end", () => {
    const out = pieces("salt", [
      { from: 0, to: 3, role: "unit" },
      { from: 2, to: 9, role: "note" },
    ]);
    expect(out.map((p) => p.text).join("")).toBe("salt");
  });
});

describe("spread", () => {
  it("is the sample deviation in percent of the mean", () => {
    const s = spread([23.8, 26.1, 24.4]);
    expect(s?.mean).toBeCloseTo(24.767, 3);
    expect(s?.percent).toBeCloseTo(4.817, 3);
  });
  it("says nothing of a single weighing", () => expect(spread([5])).toBeNull());
});

describe("isOpen", () => {
  const line = { as: "bowl", to_weigh: false, questions: [] } as unknown as Line;
  it("asks while something is to weigh or to answer", () => {
    expect(isOpen(line)).toBe(false);
    expect(isOpen({ ...line, to_weigh: true })).toBe(true);
    expect(isOpen({ ...line, questions: [{ code: "measure", text: "?" }] })).toBe(true);
    expect(isOpen({ ...line, to_weigh: true, as: "leave" })).toBe(false);
    expect(isOpen({ ...line, as: "leave", questions: [{ code: "also", text: "?" }] })).toBe(true);
  });
});

describe("the measure to weigh", () => {
  const line = (heap: string, measure = "tbsp") => ({ amount: { heap }, measure }) as unknown as Line;
  it("is heaped where it was said heaped", () => {
    expect(ownMeasure(line("heaping"))).toBe("tbsp_heaping");
    expect(ownMeasure(line("heaping", "tbsp_heaping"))).toBe("tbsp_heaping");
    expect(ownMeasure(line("full"))).toBe("tbsp");
    expect(ownMeasure(line(""))).toBe("tbsp");
  });
});
