import { describe, expect, it } from "vitest";
import { type Offer, taken } from "./recomputed";
import type { Line } from "./useDraft";

const said = { source: "reference", grams: 60, spread_percent: 8, measure: "tbsp", of: "vinegar_cider", times: 4 };
const lines = [
  { id: "a", ingredient: "vinegar_cider", grams: 60, words: "4 tbsp cider vinegar", said },
  { id: "b", ingredient: "kale", grams: 20 },
] as Line[];
const offer: Offer = { line: "a", measure: "tbsp", now_g: 60, then_g: 71.8, source: "house", spread_percent: 4, how: "weighed" };

describe("taking over a measure weighed since", () => {
  it("changes grams and says where they come from", () => {
    const [a, b] = taken(lines, [offer]);
    expect(a).toMatchObject({ grams: 71.8, words: "4 tbsp cider vinegar", said: { source: "house", grams: 71.8, times: 4 } });
    expect(b).toBe(lines[1]);
  });
  it("leaves a line alone whose grams no longer come from words", () => {
    const weighed = [{ ...lines[0], said: undefined }] as Line[];
    expect(taken(weighed, [offer])).toEqual(weighed);
  });
  it("touches nothing without an offer", () => expect(taken(lines, [])).toEqual(lines));
});
