import { describe, expect, it } from "vitest";
import { asksOf, codesOf, joined, runsOf, type TextMark, type Tick, told, wordsFor } from "./marked";

const mark = (start: number, end: number, kind: string, allergens: Record<string, string[]> = {}, asks = ""): TextMark => ({
  start,
  end,
  kind,
  allergens,
  asks,
});
const milk: Tick = { word: "milk", codes: { gb: "milk", us: "milk" } };
const fish: Tick = { word: "fish", codes: { gb: "fish", us: "fish:species not named" } };
const wheat: Tick = { word: "wheat", codes: { gb: "gluten:wheat", us: "wheat" } };

describe("a packet's list", () => {
  it("is cut into runs, nothing of it lost", () => {
    const text = "whey, wheat glucose syrup, salt";
    const runs = runsOf(text, [mark(6, 25, "names"), mark(0, 4, "betrays"), mark(2, 8, "asks")]);
    expect(runs.map((r) => r.text).join("")).toBe(text);
    expect(runs.map((r) => r.mark?.kind)).toEqual(["betrays", "asks", "names", undefined]);
  });
  it("keeps a mark that does not fit out of the text", () => {
    expect(runsOf("salt", [mark(2, 9, "names")])).toEqual([{ text: "salt" }]);
    expect(runsOf("", [])).toEqual([]);
  });
  it("says its codes by law, statements apart", () => {
    const marks = [mark(0, 4, "names", { gb: ["milk"], us: ["milk"] }), mark(5, 9, "states", { gb: ["nut:walnut"] }, "may contain")];
    expect(codesOf(marks)).toEqual({ gb: ["milk"], us: ["milk"] });
    expect(codesOf(marks, "states")).toEqual({ gb: ["nut:walnut"] });
  });
  it("asks each question once, and not what the assessment asks", () => {
    expect(
      asksOf([mark(0, 1, "asks", {}, "soy or egg"), mark(2, 3, "asks", {}, "soy or egg"), mark(4, 5, "states", {}, "may contain")]),
    ).toEqual(["soy or egg"]);
  });
});

describe("ticks", () => {
  it("are told by a code of any law, a fish by any kind", () => {
    expect(told(milk, { us: ["milk"] })).toBe(true);
    expect(told(fish, { us: ["fish:anchovy"] })).toBe(true);
    expect(told(fish, { us: ["milk"] })).toBe(false);
    expect(wordsFor({ gb: ["gluten:wheat", "milk"] }, [milk, fish, wheat])).toEqual(["milk", "wheat"]);
  });
  it("join the words without filling what one law exempts", () => {
    expect(joined({ us: ["wheat"], gb: [] }, [milk])).toEqual({ us: ["wheat", "milk"], gb: ["milk"] });
  });
  it("name the fish where somebody did", () => {
    expect(joined({}, [fish], { fish: " Hake " })).toEqual({ gb: ["fish"], us: ["fish:hake"] });
    expect(joined({ us: ["fish:anchovy"], gb: ["fish"] }, [fish])).toEqual({ us: ["fish:anchovy"], gb: ["fish"] });
    expect(joined({}, [fish])).toEqual({ gb: ["fish"], us: ["fish:species not named"] });
  });
});
