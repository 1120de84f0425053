import { describe, expect, it } from "vitest";
import { type Change, changeWords } from "./changes";
import type { Tick } from "./marked";

const ticks: Tick[] = [
  { word: "egg", codes: { gb: "egg", us: "egg" } },
  { word: "mustard", codes: { gb: "mustard" } },
];
const change = (over: Partial<Change> = {}): Change => ({
  id: 1,
  at: "2026-11-20T10:00:00Z",
  by: "Ines",
  reason: "",
  ingredients: [{ id: "a", name: "Hard cheese", gained: { gb: ["egg"], us: ["egg"] }, lost: {}, flags_gained: [], flags_lost: [] }],
  products: [
    { formula: "p", name: "Pesto", version: 1, state: "locked" },
    { formula: "p", name: "Pesto", version: 2, state: "locked" },
  ],
  open: true,
  labels: [],
  batches: [],
  called_back: 0,
  lots: [],
  ...over,
});

describe("a change in words", () => {
  it("says each allergen once over all laws, each product once over its versions", () => {
    const w = changeWords(change(), ticks);
    expect(w.title).toBe("Hard cheese gained egg");
    expect(w.touches).toBe("1 product, 0 labels, no batch called back");
  });
  it("says what was lost, flags too, and counts who else", () => {
    const g = { gained: {}, flags_gained: [] };
    const w = changeWords(
      change({
        ingredients: [
          { id: "a", name: "A", ...g, lost: { gb: ["mustard"] }, flags_lost: ["raw_egg"] },
          { id: "b", name: "B", ...g, lost: {}, flags_lost: ["raw_egg"] },
          { id: "c", name: "C", ...g, lost: {}, flags_lost: [] },
        ],
      }),
      ticks,
    );
    expect(w.title).toBe("A, B and 1 more lost mustard, the flag raw egg");
    expect(w.gained).toEqual([]);
  });
});
