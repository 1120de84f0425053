import { afterEach, describe, expect, it } from "vitest";
import { dayFrom, localMoment, setZone, today, toISO } from "./clock";

afterEach(() => setZone("UTC"));

describe("the shop's clock", () => {
  it("says the shop's day, wherever the browser stands", () => {
    const moment = new Date("2026-11-25T11:30:00Z");
    setZone("Pacific/Auckland");
    expect(today(moment)).toBe("2026-11-26");
    expect(localMoment(moment)).toBe("2026-11-26T00:30");
    setZone("America/New_York");
    expect(today(moment)).toBe("2026-11-25");
    expect(localMoment(moment)).toBe("2026-11-25T06:30");
  });

  it("turns what is typed by that clock into the moment, in summer and in winter", () => {
    setZone("Europe/London");
    expect(toISO("2026-07-01T12:00")).toBe("2026-07-01T11:00:00.000Z");
    expect(toISO("2026-12-01T12:00")).toBe("2026-12-01T12:00:00.000Z");
    setZone("America/New_York");
    expect(toISO("2026-11-25T06:30")).toBe("2026-11-25T11:30:00.000Z");
    expect(toISO("soon")).toBe("");
  });

  it("comes back to what was typed, around changes of the clock too", () => {
    setZone("America/New_York");
    for (const typed of ["2026-03-08T03:30", "2026-11-01T00:30", "2026-11-01T03:00", "2027-01-01T00:00"])
      expect(localMoment(new Date(toISO(typed)))).toBe(typed);
  });

  it("counts days over the ends of months", () => {
    expect(dayFrom(1, new Date("2026-11-30T10:00:00Z"))).toBe("2026-12-01");
    expect(dayFrom(366, new Date("2026-11-30T10:00:00Z"))).toBe("2027-12-01");
  });
});
