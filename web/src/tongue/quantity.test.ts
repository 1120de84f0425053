import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { beside, type Measure, measureOf, plainly, readNumber, readQuantity, shown } from "./quantity";
import { tongueOf } from "./tongue";

const us = tongueOf({ locale: "en-US", gallon: "us", english: "en-US", beside: true });
const gb = tongueOf({ locale: "en-GB", beside: true });
const de = tongueOf({ locale: "de-DE" });
const mass = (text: string, density?: number) => readQuantity(text, { measure: "mass", density, tongue: us });

describe("a figure", () => {
  it("is read as people type it", () => {
    for (const [text, want] of [
      ["12", 12],
      [" 1 002,5 ", 1002.5],
      ["1\u2009002.0", 1002],
      ["-4", -4],
      [".5", 0.5],
      ["1,432.5", 1432.5],
      ["1.432,5", 1432.5],
      ["1,432,000", 1432000],
      ["1,43", 1.43],
      ["0,432", 0.432],
      ["1.432", 1.432],
      ["½", 0.5],
      ["1 1/2", 1.5],
      ["2½", 2.5],
    ] as const)
      expect(readNumber(text, us), text).toBe(want);
  });
  it("is none with anything left over", () => {
    for (const t of ["", "abc", "1.2.3", "1e5", "12 g", "--1", ".", "12 50", "1,43,2", "1/0", "5 5/"])
      expect(readNumber(t, us), t).toBeNull();
  });
  it("that can be read two ways is asked, in either locale by its own mark", () => {
    const r = mass("1,432");
    expect(r).toEqual({
      kind: "ask",
      why: "“1,432” can be read two ways",
      options: [
        { value: 1432, label: "1\u2009432 g" },
        { value: 1.432, label: "1.432 g" },
      ],
    });
    expect(readQuantity("1.432", { measure: "mass", tongue: de }).kind).toBe("ask");
    expect(readQuantity("1,432", { measure: "mass", tongue: de })).toMatchObject({ kind: "value", value: 1.432 });
    expect(mass("1,250 lb")).toMatchObject({ kind: "ask", options: [{ value: 566990.463 }, { value: 566.99 }] });
  });
  it("that is shown is read back the same in every locale", () => {
    fc.assert(
      fc.property(fc.constantFrom("en-US", "en-GB", "de-DE", "fr-FR", "sv-SE"), fc.integer({ min: -9e8, max: 9e8 }), (locale, milli) => {
        const t = tongueOf({ locale });
        const x = milli / 1000;
        const back = readQuantity(shown(x, t).replace("−", "-"), { measure: "mass", tongue: t });
        // a figure that its own locale shows is either read or asked, never read as another
        if (back.kind === "value") expect(back.value).toBeCloseTo(x, 9);
        else expect(back.kind === "ask" && back.options.some((o) => o.value === x)).toBe(true);
        if (t.decimal === ".") expect(back.kind).toBe("value");
      }),
    );
  });
});

describe("a mass", () => {
  it("may be typed in ounces and pounds", () => {
    for (const [text, want] of [
      ["9 oz", 255.146],
      ["9oz", 255.146],
      ["2 lb", 907.185],
      ["2 lbs.", 907.185],
      ["2 lb 3 oz", 992.233],
      ["1/2 lb", 226.796],
      ["1.5 kg", 1500],
      ["1 kg 250 g", 1250],
      ["250 g", 250],
      ["three", null],
    ] as const)
      expect(mass(text), text).toMatchObject(want === null ? { kind: "wrong" } : { kind: "value", value: want });
  });
  it("takes a volume by the density, and says so where there is none", () => {
    expect(mass("8 fl oz", 0.92)).toMatchObject({ kind: "value", value: 217.661 });
    expect(mass("1 gal", 1)).toMatchObject({ kind: "value", value: 3785.412 });
    expect(mass("8 fl oz")).toEqual({ kind: "wrong", why: "“8 fl oz” is a volume, and its density is not known: type a mass" });
    expect(readQuantity("1 fl oz", { measure: "volume", tongue: gb })).toMatchObject({ value: 28.413 });
  });
  it("never takes the beginning of what was typed", () => {
    for (const t of ["9 oxen", "9 oz or so", "2 lb 3", "3 oz 2 lb", "12 g g", "4 in", "9 °C", "250 g -1 g", "about 9"])
      expect(mass(t).kind, t).toBe("wrong");
  });
});

describe("a temperature and a length", () => {
  const temp = (text: string, reason?: [number, number]) => readQuantity(text, { measure: "temperature", reason, tongue: us });
  it("may be typed in degrees Fahrenheit and inches", () => {
    expect(temp("185 °F")).toMatchObject({ kind: "value", value: 85 });
    expect(temp("72f")).toMatchObject({ value: 22.22 });
    expect(temp("-18 C")).toMatchObject({ value: -18 });
    expect(temp("5 oz").kind).toBe("wrong");
    expect(readQuantity('2 1/2"', { measure: "length", tongue: us })).toMatchObject({ value: 63.5 });
  });
  it("out of reason is asked, as Fahrenheit where that makes sense", () => {
    expect(temp("72", [5, 45])).toEqual({
      kind: "ask",
      why: "72 °C is out of the ordinary",
      options: [
        { value: 22.22, label: "72 °F, that is 22.2 °C" },
        { value: 72, label: "yes, 72 °C" },
      ],
    });
    expect(temp("72 °F", [5, 45])).toMatchObject({ kind: "value", value: 22.22 });
    expect(temp("300 °F", [5, 45])).toMatchObject({ kind: "ask", options: [{ value: 148.89 }] });
  });
});

describe("beside", () => {
  it("gives the other units where the shop wants them", () => {
    expect(beside(255.146, "mass", us)).toBe("9.00 oz");
    expect(beside(992.233, "mass", us)).toBe("2 lb 3.0 oz");
    expect(beside(453.5, "mass", us)).toBe("1 lb 0.0 oz");
    expect(beside(85, "temperature", us)).toBe("185 °F");
    expect(beside(250, "volume", us)).toBe("8.5 fl oz");
    expect(beside(60, "length", us)).toBe("2.36 in");
    expect(beside(60, "plain", us)).toBe("");
    expect(beside(255, "mass", tongueOf({ locale: "en-GB" }))).toBe("");
    expect(beside(null, "mass", us)).toBe("");
  });
  it("is read back as the same weight, to what it shows", () => {
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 2_000_000 }), (decigrams) => {
        const g = decigrams / 10;
        const back = readQuantity(beside(g, "mass", us), { measure: "mass", tongue: us });
        expect(back.kind).toBe("value");
        if (back.kind === "value") expect(Math.abs(back.value - g)).toBeLessThan(1.5);
      }),
    );
  });
});

it("the unit on a label tells what it asks for", () => {
  const want: Record<string, Measure> = {
    g: "mass",
    "°C": "temperature",
    mm: "length",
    mL: "volume",
    "g/mL": "plain",
    "g in 100 g": "plain",
    "%": "plain",
    days: "plain",
  };
  for (const [unit, m] of Object.entries(want)) expect(measureOf(unit), unit).toBe(m);
  expect(plainly(1432.5, us)).toBe("1\u2009432.5");
});
