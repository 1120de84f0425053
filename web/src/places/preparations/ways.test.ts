import { describe, expect, it } from "vitest";
import { left, type RouteData, sharesWord, stepWords } from "./ways";

const num = (n: number, p = 0) => n.toFixed(p);
const way = { co_surplus_g: 0, out_surplus_g: 0, co_name: "Lime zest", out_name: "Lime juice" } as RouteData;

describe("what is left over", () => {
  it("is nothing where both outputs are used up", () => expect(left(way, num)).toBe("nothing"));
  it("names each output with its grams", () => {
    expect(left({ ...way, co_surplus_g: 12.4 }, num)).toBe("12 g Lime zest");
    expect(left({ ...way, co_surplus_g: 12.4, out_surplus_g: 3 }, num)).toBe("12 g Lime zest and 3 g Lime juice");
  });
  it("does not speak of crumbs", () => expect(left({ ...way, out_surplus_g: 0.04 }, num)).toBe("nothing"));
});

describe("ways to the same thing", () => {
  it("share the first word of their output", () => {
    expect(sharesWord("Lentils, boiled", "Lentil (tinned)")).toBe(true);
    expect(sharesWord("Red pepper, home-charred", "Red peppers, jarred")).toBe(true);
    expect(sharesWord("Kale, raw", "Carrot, raw")).toBe(false);
  });
});

describe("steps", () => {
  it("are said without underscores", () => expect(stepWords("char_and_peel")).toBe("char and peel"));
});
