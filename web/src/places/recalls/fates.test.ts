import { describe, expect, it } from "vitest";
import { byBatch, elapsed, fates, type Line, outcome, spoken } from "./fates";

const account = { made: 58, here: 42, held: 5, sold: 6, gone: 2, open: 0, missing: 4, over: 1, out: 12 };
const line = (batch: number, place: string): Line => ({
  batch,
  code: `26-${batch}`,
  name: "Dressing",
  ends: "",
  place,
  jars: 4,
  since: "",
  looked: false,
  written: false,
  found: 0,
  sold: 0,
  missing: 0,
  over: 0,
  by: "",
  at: null,
  note: "",
});

describe("what became of jars", () => {
  it("adds up to all of them, and what was found beyond", () => {
    expect(fates(account).reduce((s, f) => s + f.jars, 0)).toBe(account.made + account.over);
    expect(fates(account).find((f) => f.key === "open")?.look).toBe("hatch");
  });
  it("stands batch by batch", () => {
    const list = byBatch([line(1, "cold_room"), line(2, "with"), line(1, "samples")]);
    expect(list.map((b) => [b.batch, b.lines.length])).toEqual([
      [1, 2],
      [2, 1],
    ]);
  });
});

describe("the time it took", () => {
  it("is a clock", () => {
    expect(elapsed(692_400)).toBe("0:11:32");
    expect(elapsed(-5)).toBe("0:00:00");
    expect(elapsed(86_400_000 + 3_661_000)).toBe("1 d 1:01:01");
  });
  it("is said shortly", () => {
    expect([20_000, 660_000, 5_400_000, 9_000_000, 4 * 86_400_000].map(spoken)).toEqual([
      "under a minute",
      "11 min",
      "1.5 h",
      "2.5 h",
      "4 days",
    ]);
  });
  it("belongs to what a drill says of itself", () => {
    const r = {
      id: 1,
      code: "R26-1",
      mock: true,
      title: "",
      began: "2026-06-02T09:00:00Z",
      told_all: "2026-06-02T09:11:00Z",
      closed_at: null,
      account,
    };
    expect(outcome(r)).toBe("11 min until everybody was told; 4 of 58 jars were not found");
    expect(outcome({ ...r, told_all: null })).toContain("not everybody was told");
    expect(outcome({ ...r, told_all: null, account: { ...account, out: 0, missing: 0 } })).toBe(
      "nobody had to be told; every jar was found",
    );
  });
});
