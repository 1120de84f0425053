import { describe, expect, it } from "vitest";
import { merge } from "./merge";

const line = (id: string, grams: number) => ({ id, grams });

describe("two sides put together", () => {
  it("keep what each changed in its own place", () => {
    const base = { name: "Dip", fill: 190, lines: [line("a", 10), line("b", 20)] };
    const mine = { ...base, lines: [line("a", 11), line("b", 20)] };
    const theirs = { ...base, fill: 200, lines: [line("a", 10), line("b", 22), line("c", 5)] };
    expect(merge(base, mine, theirs)).toEqual({
      value: { name: "Dip", fill: 200, lines: [line("a", 11), line("b", 22), line("c", 5)] },
      clashes: [],
    });
  });
  it("clash where both changed one place, and mine stands until it is settled", () => {
    const base = { lines: [line("a", 10)] };
    const got = merge(base, { lines: [line("a", 11)] }, { lines: [line("a", 12)] });
    expect(got.value).toEqual({ lines: [line("a", 11)] });
    expect(got.clashes).toEqual([{ path: "lines[a].grams", mine: 11, theirs: 12 }]);
  });
  it("clash where one takes out what the other changes", () => {
    const base = { lines: [line("a", 10), line("b", 20)] };
    expect(merge(base, { lines: [line("b", 20)] }, { lines: [line("a", 12), line("b", 20)] }).clashes).toEqual([
      { path: "lines[a]", mine: undefined, theirs: line("a", 12) },
    ]);
    expect(merge(base, { lines: [line("b", 20)] }, base).value).toEqual({ lines: [line("b", 20)] });
  });
  it("follow whoever moved a line", () => {
    const base = { lines: [line("a", 1), line("b", 2), line("c", 3)] };
    const moved = { lines: [line("c", 3), line("a", 1), line("b", 2)] };
    const weighed = { lines: [line("a", 1), line("b", 9), line("c", 3)] };
    const both = { lines: [line("c", 3), line("a", 1), line("b", 9)] };
    expect(merge(base, moved, weighed).value).toEqual(both);
    expect(merge(base, weighed, moved).value).toEqual(both);
  });
  it("are one where both did the same", () => {
    expect(merge({ a: 1 }, { a: 2 }, { a: 2 })).toEqual({ value: { a: 2 }, clashes: [] });
  });
});
