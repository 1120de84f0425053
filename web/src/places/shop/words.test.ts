import { describe, expect, it } from "vitest";
import type { Tick } from "../allergens/marked";
import { codesOfTerm, meaningOf, termOf, termSays } from "./words";

const peanut: Tick = { word: "peanuts", codes: { gb: "peanut", us: "peanut" } };
const celery: Tick = { word: "celery", codes: { gb: "celery" } };
const ticks = [peanut, celery];

describe("a word of the shop's own", () => {
  it("says what was ticked, under each law that knows it", () => {
    const t = termOf(" House Satay ", "betrays", ticks, "");
    expect(t.words).toBe("house satay");
    expect(codesOfTerm(t)).toEqual({ gb: ["peanut", "celery"], us: ["peanut"] });
    expect(meaningOf(t)).toBe("betrays");
    expect(termSays(t, ticks)).toBe("is a sign of peanuts, celery; the label adds the word in brackets");
  });
  it("names plainly, leaves open, or means nothing", () => {
    expect(termSays(termOf("peanutty", "names", [peanut], "ignored"), ticks)).toBe("names peanuts");
    expect(termSays(termOf("bouillon", "asks", [peanut], " celery? "), ticks)).toBe("leaves open: celery?");
    expect(meaningOf(termOf("butter bean", "hides", [peanut], ""))).toBe("hides");
    expect(termOf("butter bean", "hides", [peanut], "").says).toEqual({});
  });
});
