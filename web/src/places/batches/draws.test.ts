import { describe, expect, it } from "vitest";
import { asDraws, propose, sumOf } from "./draws";

const shelf = (...lots: [string, number, string?][]) => lots.map(([code, reaches_g, why_not = ""]) => ({ code, reaches_g, why_not }));

describe("lots for a line", () => {
  it("takes the first that may be used", () => {
    expect(propose(120, shelf(["P1", 500, "it is on hold: mould"], ["P2", 500], ["P3", 900]))).toEqual([
      { code: "P2", grams: "120", reason: "" },
    ]);
  });
  it("goes on to the next where one does not reach", () => {
    expect(propose(120.4, shelf(["P1", 100.1], ["P2", 500])).map((d) => [d.code, d.grams])).toEqual([
      ["P1", "100.1"],
      ["P2", "20.3"],
    ]);
  });
  it("lets the last go below nothing where all together do not reach", () => {
    expect(propose(120, shelf(["P1", 30], ["P2", 40])).map((d) => [d.code, d.grams])).toEqual([
      ["P1", "30"],
      ["P2", "90"],
    ]);
  });
  it("proposes none where there is none", () => {
    expect(propose(120, shelf(["P1", 0], ["P2", 40, "it was refused: torn"]))).toEqual([]);
  });
  it("sends a single lot with all the grams, whatever stands beside it", () => {
    expect(asDraws([{ code: " P1 ", grams: "7", reason: "" }], 120)).toEqual([{ code: "P1", grams: 120 }]);
  });
  it("sends several with their own grams and a reason", () => {
    const two = [
      { code: "P1", grams: "20,5", reason: "" },
      { code: "", grams: "1", reason: "" },
      { code: "P2", grams: "much", reason: " looked at it " },
    ];
    expect(asDraws(two, 120)).toEqual([
      { code: "P1", grams: 20.5 },
      { code: "P2", grams: 0, reason: "looked at it" },
    ]);
    expect(sumOf(two)).toBe(20.5);
    expect(sumOf(two.slice(0, 2))).toBeNull();
  });
});
