import { describe, expect, it } from "vitest";
import { daysBetween, lookOf, placeOf } from "./shelf";

describe("the shelf", () => {
  it("counts days over a change of months and clocks", () => {
    expect(daysBetween("2026-10-24", "2026-11-01")).toBe(8);
    expect(daysBetween("2026-11-25", "2026-11-24")).toBe(-1);
  });
  it("puts what ends first to the left, and what has no end to the right", () => {
    const at = ["2026-11-20", "2026-11-25", "2026-11-26", "2026-12-25", "2028-01-01", undefined].map((d) => placeOf("2026-11-25", d));
    expect([...at].sort((a, b) => a - b)).toEqual(at);
    expect(at.at(-1)).toBe(1);
    expect(at.at(-2)).toBe(0.9);
  });
  it("shows what may not be used before what ends soon", () => {
    const look = (lot: Parameters<typeof lookOf>[0]) => lookOf(lot, "2026-11-25");
    expect(look({ state: "open", ends: "2026-11-28" })).toBe("soon");
    expect(look({ state: "open", ends: "2026-11-29" })).toBe("usable");
    expect(look({ state: "open" })).toBe("usable");
    expect(look({ state: "open", ends: "2026-11-26", frozen: true })).toBe("frozen");
    expect(look({ state: "open", ends: "2026-11-24" })).toBe("past");
    expect(look({ state: "hold", bar: "it is on hold: mould", ends: "2026-11-24" })).toBe("barred");
    expect(look({ state: "waiting", bar: "nobody has accepted it yet" })).toBe("waits");
  });
});
