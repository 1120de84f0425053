import { describe, expect, it } from "vitest";
import { type Logged, soFar, things, told } from "./making";

const names = { tahini: "Tahini", walnut: "Walnuts", pecan: "Pecan nuts", salt: "Salt" };
const log: Logged[] = [
  { kind: "in", ingredient: "tahini", grams: 200 },
  { kind: "in", ingredient: "pecan", instead_of: "walnut", grams: 50 },
  { kind: "tasted", words: "flat", grams: 0 },
  { kind: "added", ingredient: "salt", grams: 2.5, reason: "too flat" },
];
const num = (n: number, places: number) => n.toFixed(places);

describe("a making as it happens", () => {
  it("counts what stood in for what it replaced", () => {
    expect(soFar(log, "walnut")).toBe(50);
    expect(soFar(log, "pecan")).toBe(0);
    expect(soFar(log, "salt")).toBe(2.5);
  });
  it("lists the sheet first and what else went in behind it", () => {
    const lines = [
      { id: "a", ingredient: "walnut", grams: 40 },
      { id: "b", ingredient: "tahini", grams: 100 },
      { id: "c", ingredient: "tahini", grams: 60 },
    ];
    expect(things(lines as never, log, names).map((t) => [t.name, t.sheet])).toEqual([
      ["Walnuts", 40],
      ["Tahini", 160],
      ["Salt", null],
    ]);
  });
  it("tells each entry in words", () => {
    expect(log.map((e) => told(e, names, num))).toEqual([
      "200.0 g Tahini went in",
      "50.0 g Pecan nuts, instead of Walnuts went in",
      "tasted: flat",
      "added 2.5 g Salt: too flat",
    ]);
  });
});
