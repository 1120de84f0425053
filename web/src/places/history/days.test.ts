import { describe, expect, it } from "vitest";
import { dayAfter, strip } from "./days";

describe("the strip of days", () => {
  it("ends today, and holds the day that is looked at", () => {
    const bars = strip([{ day: "2026-11-24", count: 7 }], "2026-11-25", "2026-11-28");
    expect(bars).toHaveLength(42);
    expect(bars.at(-1)?.day).toBe("2026-11-28");
    expect(bars.find((b) => b.day === "2026-11-24")?.count).toBe(7);
    expect(bars.filter((b) => b.monday).map((b) => b.day)).toContain("2026-11-23");
  });
  it("goes back with a day long ago", () => {
    const bars = strip([], "2026-06-02", "2026-11-28");
    expect(bars.some((b) => b.day === "2026-06-02")).toBe(true);
    expect(bars.at(-1)?.day).toBe("2026-06-23");
  });
  it("counts days over months and years", () => {
    expect([dayAfter("2026-12-31", 1), dayAfter("2026-03-01", -1)]).toEqual(["2027-01-01", "2026-02-28"]);
  });
});
