import { describe, expect, it } from "vitest";
import { type Change, changeWords, marksOf, stepOf, sumOf, withDays } from "./parts";

const num = (n: number, places = 0) => n.toFixed(places);

describe("the marks of an axis", () => {
  it("stand in round steps inside it", () => {
    expect(marksOf(1.62, 3.4)).toEqual([2, 2.5, 3]);
    expect(marksOf(0, 480)).toEqual([0, 100, 200, 300, 400]);
    expect(marksOf(2, 2)).toEqual([2]);
  });
  it("are four to seven, whatever the span", () => {
    for (const span of [0.03, 0.7, 1, 3.3, 19, 260, 9000]) {
      const n = marksOf(0, span).length;
      expect(n).toBeGreaterThanOrEqual(3);
      expect(n).toBeLessThanOrEqual(7);
    }
    expect(stepOf(0)).toBe(1);
  });
});

describe("the words of a what-if", () => {
  const change = (c: Partial<Change>): Change => ({ kind: "price", of: "x", percent: 0, to: "", ...c });
  it("say what changes and which way", () => {
    expect(changeWords(change({ percent: 25 }), "Rapeseed oil", num)).toBe("Rapeseed oil up 25 %");
    expect(changeWords(change({ percent: -12.5 }), "Rapeseed oil", num)).toBe("Rapeseed oil down 12.5 %");
    expect(changeWords(change({ kind: "hands", percent: 10 }), "", num)).toBe("an hour of hands up 10 %");
    expect(changeWords(change({ kind: "rooms", percent: 10 }), "", num)).toBe("kitchen up 10 %");
    expect(changeWords(change({ kind: "jar", to: "320" }), "", num)).toBe("a jar of 320 g");
    expect(changeWords(change({ kind: "swap" }), "tahini for miso", num)).toBe("tahini for miso");
  });
});

it("a group is the sum of its parts", () => {
  expect(sumOf([])).toBe(0);
  expect(
    sumOf([
      { key: "a", name: "a", per_jar: 0.25 },
      { key: "b", name: "b", per_jar: 0.5 },
    ]),
  ).toBe(0.75);
});

it("days in a text take the form of the shop", () => {
  expect(withDays("7.25 / 5000 g; Marl Mill, 2026-11-02", (d) => `<${d}>`)).toBe("7.25 / 5000 g; Marl Mill, <2026-11-02>");
});
