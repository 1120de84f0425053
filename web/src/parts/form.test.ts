// @vitest-environment happy-dom
import { describe, expect, it } from "vitest";
import { fieldMessage, type Problem } from "../api/client";
import { addEffects, type Effect } from "../places/formulas/useDraft";
import { makeUpWords } from "./makeup";
import { formats } from "./shop";

const shop = { locale: "en-GB" } as Parameters<typeof formats>[0];

describe("formats", () => {
  it("groups thousands thinly and keeps places", () => {
    expect(formats(shop).num(1002, 1)).toBe("1\u2009002.0");
    expect(formats(shop).money(2.5)).toBe("2.50");
    expect(formats(shop).num(-0, 1)).toBe("0.0");
  });
  it("writes days in the shop's own order", () => {
    expect(formats(shop).day("2026-11-25", true)).toBe("25 Nov 2026");
    expect(formats({ ...shop, locale: "en-US" }).day("2026-11-25", true)).toBe("Nov 25, 2026");
    expect(formats({ ...shop, beside: true }).celsius(5)).toBe("5 °C (41 °F)");
  });
});

describe("makeUpWords", () => {
  it("names the parts in their fixed order", () => {
    expect(makeUpWords({ fat: 25, water: 70, acid: 1, salt: 1, sugar: 0, other: 3 })).toBe(
      "fat 25.0 %, water 70.0 %, acid 1.0 %, salt 1.0 %, other solids 3.0 %",
    );
    expect(makeUpWords({ fat: 0, water: 0, acid: 0, salt: 0, sugar: 0, other: 0 })).toBe("nothing yet");
  });
});

describe("fieldMessage", () => {
  const problem: Problem = {
    status: 422,
    code: "invalid",
    title: "No.",
    fields: [{ field: "lines[2].grams", message: "cannot be negative" }],
  };
  it("finds the message of a field and of what lies under it", () => {
    expect(fieldMessage(problem, "lines[2]")).toBe("cannot be negative");
    expect(fieldMessage(problem, "lines[2].grams")).toBe("cannot be negative");
    expect(fieldMessage(problem, "lines[20]")).toBe("");
    expect(fieldMessage(null, "lines[2]")).toBe("");
  });
});

describe("addEffects", () => {
  const effect = (over: Partial<Effect>): Effect => ({
    per_jar: 0,
    unpriced: [],
    jars: 0,
    ph: null,
    water_activity: null,
    salt_in_water_percent: 0,
    acetic_in_water_percent: 0,
    allergens_gained: [],
    allergens_lost: [],
    declaration_changed: false,
    ...over,
  });
  it("adds differences and lets a gain and a loss cancel", () => {
    const sum = addEffects(
      effect({ per_jar: 0.2, ph: -0.1, allergens_gained: ["milk"] }),
      effect({ per_jar: -0.15, ph: 0.05, allergens_lost: ["milk"] }),
    );
    expect(sum?.per_jar).toBeCloseTo(0.05);
    expect(sum?.ph).toBeCloseTo(-0.05);
    expect(sum?.allergens_gained).toEqual([]);
    expect(sum?.allergens_lost).toEqual([]);
  });
  it("starts from nothing", () => {
    expect(addEffects(null, effect({ per_jar: 1 }))?.per_jar).toBe(1);
    expect(addEffects(null, null)).toBeNull();
  });
});
