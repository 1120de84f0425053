import { describe, expect, it, vi } from "vitest";
import type { Waiting } from "../../../saving/outbox";
import { asClock } from "../plan/Plan";
import { type BenchLine, type LoadState, nextLine, stands, zeroOf } from "./desk";
import { decimals, Follow, type Reading, STILL, stopAt } from "./pour";
import { better, roundOf, shot } from "./rounds";
import { whyNoTare, whyNot } from "./useScale";
import { type Heard, Wedge } from "./wedge";

const reading = (ms: number, value: number, steady = false): Reading => ({
  seq: ms,
  value,
  unit: "g",
  mv: null,
  celsius: null,
  steady,
  over: false,
  fault: "",
  answers: true,
  at: new Date(1_800_000_000_000 + ms).toISOString(),
});

const line = (part: Partial<BenchLine> = {}): BenchLine => ({
  line: "oil",
  name: "Oil",
  state: "open",
  planned_g: 100,
  target_g: 100,
  now_g: 100,
  low_g: 99,
  high_g: 101,
  in_g: 0,
  held_g: 0,
  scale: { name: "Bench scale", division_g: 0.1, capacity_g: 6000 },
  deviation_percent: 0,
  last: 0,
  ...part,
});

const load = (lines: BenchLine[]): LoadState => ({
  no: 1,
  lines,
  added: [],
  errands: [],
  bowl_g: 0,
  target_g: 100,
  taken_g: 0,
  wasted_g: 0,
  tries: 0,
  over: null,
  zero: null,
  ready: false,
  missing: [],
});

const waits = (grams: number, refused?: string): Waiting => ({
  key: "k",
  batch: 1,
  what: "oil",
  by: "Ines",
  at: 1,
  entry: { kind: "capture", capture: { load: 1, line: "oil", grams } },
  ...(refused ? { refused } : {}),
});

describe("a pour", () => {
  it("is seen to stop where the reading stood", () => {
    const f = new Follow(0.1);
    for (let t = 0; t <= 1000; t += 50) f.next(reading(t, t * 0.2));
    expect(f.next(reading(1050, 210)).pouring).toBe(true);
    let p = f.next(reading(1100, 214));
    for (let t = 1150; t < 1700; t += 50) p = f.next(reading(t, 214.4));
    expect(p.pouring).toBe(false);
    expect(p.stopped).toBeGreaterThan(200);
    expect(p.stopped).toBeLessThan(215);
    f.tare();
    expect(f.next(reading(2000, 0, true)).stopped).toBeNull();
  });

  it("is told where to stop, in divisions of the scale", () => {
    expect(stopAt(2800, 18.04, 0.1)).toBeCloseTo(2782, 5);
    expect(stopAt(2800, undefined, 0.1)).toBeNull();
    expect(stopAt(10, 18, 0.1)).toBeNull();
    expect([1, 0.1, 0.01, 0.5, 5].map(decimals)).toEqual([0, 1, 2, 1, 0]);
  });
});

describe("a keyboard wedge", () => {
  const type = async (keys: string[], gap: number) => {
    const heard: Heard[] = [];
    const w = new Wedge((h) => heard.push(h));
    let at = 1000;
    for (const k of keys) {
      w.key(k, at);
      at += gap;
    }
    await vi.waitFor(() => expect(heard.length).toBeGreaterThan(0));
    await new Promise((go) => setTimeout(go, 90));
    return heard;
  };

  it("is known from a hand by its speed", async () => {
    expect(await type([..."P1048", "Enter"], 8)).toEqual([{ kind: "scan", code: "P1048" }]);
  });

  it("leaves single keys and the pedal to the hand", async () => {
    expect(await type(["t"], 0)).toEqual([{ kind: "key", key: "t" }]);
    expect(await type(["Enter"], 0)).toEqual([{ kind: "key", key: "Enter" }]);
    expect(await type(["t", "Enter"], 400)).toContainEqual({ kind: "key", key: "Enter" });
  });
});

describe("a line at the bench", () => {
  it("counts what waits on this tablet, and says that it is not safe", () => {
    expect(stands({ waiting: [] }, 1, line())).toEqual({ in: 0, state: "open", safe: true });
    expect(stands({ waiting: [waits(100)] }, 1, line())).toEqual({ in: 100, state: "done", safe: false });
    expect(stands({ waiting: [waits(108)] }, 1, line()).state).toBe("over");
    expect(stands({ waiting: [waits(40)] }, 1, line()).state).toBe("open");
    expect(stands({ waiting: [waits(100)] }, 1, line({ held_g: 20 })).state).toBe("taste");
    expect(stands({ waiting: [waits(100, "no")] }, 1, line()).in).toBe(0);
  });

  it("comes next in its order, but an over-pour before all", () => {
    const lines = [line({ line: "a", state: "done" }), line({ line: "b" }), line({ line: "c", state: "over" })];
    expect(nextLine({ waiting: [] }, load(lines))?.line).toBe("c");
    expect(nextLine({ waiting: [] }, load(lines.slice(0, 2)))?.line).toBe("b");
    expect(nextLine({ waiting: [] }, load(lines.slice(0, 1)))).toBeUndefined();
  });
});

describe("the zero of a scale", () => {
  const act = (entry: Waiting["entry"], refused?: string): Waiting => ({ key: "k", batch: 1, what: "", by: "Ines", at: 1, entry, refused });
  const tare = (at: number) => act({ kind: "tared", tared: { load: 1, scale: "Bench scale", reading_g: at } });
  const taken = (at: number) => act({ kind: "capture", capture: { load: 1, line: "oil", grams: 5, scale: "Bench scale", reading_g: at } });
  const typed = act({ kind: "capture", capture: { load: 1, line: "oil", grams: 5, manual: true } });
  const known = { no: 1, zero: { scale: "Bench scale", reading_g: 812.4, by: "Bram" } };
  const at = (...waiting: Waiting[]) => zeroOf({ waiting }, known, "Bench scale");

  it("is what the batch knows, whichever tablet asks", () => {
    expect(at()).toBe(812.4);
    expect(zeroOf({ waiting: [] }, known, "Fine scale")).toBeNull();
    expect(zeroOf({ waiting: [] }, { no: 1, zero: null }, "Bench scale")).toBeNull();
  });

  it("moves with what waits on this tablet, and is lost with what was typed", () => {
    expect(at(taken(1200))).toBe(1200);
    expect(at(tare(3))).toBe(3);
    expect(at(taken(1200), typed)).toBeNull();
    expect(at(typed, tare(1300))).toBe(1300);
    expect(at(act(taken(1200).entry, "refused"))).toBe(812.4);
  });

  it("says why no weight is taken", () => {
    const live = { net: 5, shows: 5, steady: true, over: false, answers: true, heard: true, pour: STILL };
    expect(whyNot(live, "Bench scale")).toBe("");
    expect(whyNot({ ...live, steady: false }, "Bench scale")).toContain("moving");
    expect(whyNot({ ...live, net: -677.1 }, "Bench scale")).toContain("below its zero");
    expect(whyNot({ ...live, net: null }, "Bench scale")).toContain("tare it first");
    expect(whyNot({ ...live, answers: false }, "Bench scale")).toContain("Type the weight");
    expect(whyNoTare({ ...live, net: null }, "Bench scale")).toBe("");
    expect(whyNoTare({ ...live, steady: false }, "Bench scale")).toContain("then tare");
  });
});

describe("a rehearsal", () => {
  it("tells how far off each pour was, and how it got better", () => {
    const of = load([line({ now_g: 200, in_g: 50 })]);
    const s = shot(of, { load: 1, line: "oil", grams: 165 });
    expect(s?.target).toBe(150);
    expect(s?.off).toBeCloseTo(10, 9);
    const shots = [8, -6, 4, 2, 1, -1].map((off) => ({ line: "x", name: "X", target: 100, grams: 100 + off, off }));
    expect(better(shots)).toEqual({ first: 7, last: 1 });
    expect(better(shots.slice(0, 2))).toBeNull();
    expect(roundOf("now", shots, 1, 1).mean).toBeCloseTo(22 / 6, 9);
  });
});

describe("an hour", () => {
  it("is read as people type it", () => {
    expect(["9", "9:30", "09.30", "9:30 pm", "12 am", "17h45"].map(asClock)).toEqual([
      "09:00",
      "09:30",
      "09:30",
      "21:30",
      "00:00",
      "17:45",
    ]);
    expect(asClock("soon")).toBe("soon");
  });
});
