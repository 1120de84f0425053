import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { dayShown, momentShown, readDay, readMoment } from "./days";
import { tongueOf } from "./tongue";

const us = tongueOf({ locale: "en-US", gallon: "us", english: "en-US" });
const gb = tongueOf({ locale: "en-GB" });
const NOW = "2026-11-25";
const locales = ["en-US", "en-GB", "de-DE", "fr-FR", "sv-SE", "es-ES"];
const anyDay = fc
  .date({ min: new Date("1990-01-01"), max: new Date("2099-12-31"), noInvalidDate: true })
  .map((d) => d.toISOString().slice(0, 10));

describe("a day", () => {
  it("is read as people write it", () => {
    for (const [text, want] of [
      ["2026-12-04", "2026-12-04"],
      ["4 Dec 2026", "2026-12-04"],
      ["Dec 4, 2026", "2026-12-04"],
      ["4th december", "2026-12-04"],
      ["December 4th", "2026-12-04"],
      ["25/11/2026", "2026-11-25"],
      ["11/25/26", "2026-11-25"],
      ["5.5.2026", "2026-05-05"],
      ["today", "2026-11-25"],
      ["yesterday", "2026-11-24"],
    ] as const)
      expect(readDay(text, NOW, us), text).toEqual({ kind: "value", value: want });
  });
  it("that two countries read differently is asked", () => {
    expect(readDay("04/12/2026", NOW, us)).toMatchObject({ kind: "ask", options: [{ value: "2026-12-04" }, { value: "2026-04-12" }] });
  });
  it("is none where the calendar has none", () => {
    for (const t of ["31 Feb 2026", "2026-13-01", "soon", "12", "4 Dec 2026 or so", "32/13/2026", "0 Dec"])
      expect(readDay(t, NOW, gb).kind, t).toBe("wrong");
  });
  it("that is shown is read back the same in every locale", () => {
    fc.assert(
      fc.property(fc.constantFrom(...locales), anyDay, (locale, day) => {
        const t = tongueOf({ locale });
        expect(readDay(dayShown(day, t), NOW, t)).toEqual({ kind: "value", value: day });
      }),
    );
  });
});

describe("a moment", () => {
  it("is read with either clock", () => {
    for (const [text, want] of [
      ["25 Nov 2026, 19:34", "2026-11-25T19:34"],
      ["Nov 25, 2026, 7:34 PM", "2026-11-25T19:34"],
      ["Nov 25 at 7.34pm", "2026-11-25T19:34"],
      ["2026-11-23T12:05", "2026-11-23T12:05"],
      ["12:15 am", "2026-11-25T00:15"],
      ["9:05", "2026-11-25T09:05"],
      ["now", "2026-11-25T12:00"],
    ] as const)
      expect(readMoment(text, "2026-11-25T12:00", us), text).toEqual({ kind: "value", value: want });
    for (const t of ["25:00", "13:00 PM", "9:61", "noonish", "25 Nov"]) expect(readMoment(t, "2026-11-25T12:00", us).kind, t).toBe("wrong");
  });
  it("that is shown is read back the same in every locale", () => {
    fc.assert(
      fc.property(fc.constantFrom(...locales), anyDay, fc.nat(23), fc.nat(59), (locale, day, h, m) => {
        const t = tongueOf({ locale });
        const at = `${day}T${String(h).padStart(2, "0")}:${String(m).padStart(2, "0")}`;
        expect(readMoment(momentShown(at, t), "2026-11-25T12:00", t)).toEqual({ kind: "value", value: at });
      }),
    );
  });
});
