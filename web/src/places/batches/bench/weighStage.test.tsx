// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { act } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../../api/client";
import { MeProvider } from "../../../parts/session";
import { ShopProvider } from "../../../parts/shop";
import type { BenchLine, Candidate, Desk, LoadState } from "./desk";
import { STILL } from "./pour";
import type { Live } from "./useScale";
import { type Act, WeighStage } from "./WeighStage";

afterEach(cleanup);

const oil: BenchLine = {
  line: "l1",
  name: "Rapeseed oil",
  class: "oil",
  state: "open",
  planned_g: 300,
  target_g: 300,
  now_g: 300,
  low_g: 298,
  high_g: 302,
  in_g: 0,
  held_g: 0,
  scale: { name: "Bench scale", division_g: 0.5, capacity_g: 6000 } as BenchLine["scale"],
  deviation_percent: 0,
  last: 7,
};
const load = { no: 1, lines: [oil], errands: [], zero: null, over: null, bowl_g: 0 } as unknown as LoadState;

const lot = (code: string, more: Partial<Candidate> = {}) =>
  ({ id: code.length, code, name: oil.name, why_not: "", reaches_g: 5000, ends: "", ...more }) as unknown as Candidate;

const live = (net: number | null, more: Partial<Live> = {}): Live => ({
  net,
  shows: net === null ? 180 : 180 + net,
  steady: true,
  over: false,
  answers: true,
  heard: true,
  pour: STILL,
  ...more,
});

/** The stage as it stands at the bench, with what its main key does and what it wrote down. */
function stage(on: Live, lots: Candidate[] = [lot("P1001")], role: "maker" | "owner" = "maker") {
  const wrote: Schemas["NewEntry"][] = [];
  const key: { now: Act | null } = { now: null };
  const desk = {
    waiting: [],
    rehearsal: false,
    devices: [{ id: "bench", name: "Bench scale", kind: "scale", division_g: 0.5 }],
    lotsFor: () => lots,
    lagOf: () => undefined,
    fact: (e: Schemas["NewEntry"]) => wrote.push(e),
  } as unknown as Desk;
  const shop = { locale: "en-GB", time_zone: "Europe/London", gallon: "imperial", english: "en-GB" } as Schemas["ShopView"];
  const view = (now: Live, code?: string) => (
    <MeProvider value={{ name: "Bram", role, may: (asked) => asked !== "owner" || role === "owner" }}>
      <ShopProvider shop={shop}>
        <WeighStage
          desk={desk}
          load={load}
          line={oil}
          live={now}
          offer={(a) => {
            key.now = a;
          }}
          scanned={code ? { code, at: 1 } : null}
        />
      </ShopProvider>
    </MeProvider>
  );
  const drawn = render(view(on));
  return {
    wrote,
    key,
    reads: (now: Live, code?: string) => drawn.rerender(view(now, code)),
    press: () => act(() => key.now?.go()),
    gone: () => drawn.unmount(),
  };
}

describe("one line at the bench", () => {
  beforeEach(() => {
    vi.useRealTimers();
  });

  it("takes a steady weight with its lot and the reading it counts from", () => {
    const s = stage(live(300.5));
    expect(s.key.now).toMatchObject({ text: "Take 300.5 g", can: true });
    s.press();
    expect(s.wrote).toHaveLength(1);
    expect(s.wrote[0].capture).toMatchObject({ line: "l1", grams: 300.5, saw: 7, scale: "Bench scale", reading_g: 480.5 });
    expect(s.wrote[0].capture?.draws).toEqual([{ code: "P1001", grams: 300.5 }]);
  });

  it("takes nothing that moves, and says so only when asked to", () => {
    const s = stage(live(300, { steady: false }));
    expect(s.key.now).toMatchObject({ text: "settling …", can: false });
    expect(screen.queryByRole("alert")).toBeNull();
    s.press();
    expect(s.wrote).toEqual([]);
    expect(screen.getByRole("alert").textContent).toContain("still moving");
    s.reads(live(300));
    expect(s.key.now?.text).toBe("Take 300.0 g");
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("takes nothing before the scale is tared, nor below its zero", () => {
    const s = stage(live(null));
    expect(s.key.now?.text).toBe("Tare first");
    s.press();
    s.reads(live(-4));
    expect(s.key.now?.text).toBe("Below zero");
    s.press();
    expect(s.wrote).toEqual([]);
  });

  it("says what is still to go, and that it is too much", () => {
    const s = stage(live(120));
    expect(screen.getByText("180.0 g")).toBeTruthy();
    expect(s.key.now?.text).toBe("Take 120.0 g, more to come");
    s.reads(live(310));
    expect(screen.getByText("· 10.0 g over", { exact: false })).toBeTruthy();
  });

  it("takes a typed weight as typed, from no scale", () => {
    const s = stage(live(0));
    fireEvent.click(screen.getByRole("button", { name: "Type the weight instead" }));
    const field = screen.getByLabelText("Grams of Rapeseed oil");
    fireEvent.change(field, { target: { value: "a cup" } });
    s.press();
    expect(s.wrote).toEqual([]);
    fireEvent.change(field, { target: { value: "299" } });
    s.press();
    expect(s.wrote[0].capture).toMatchObject({ grams: 299, manual: true });
    expect(s.wrote[0].capture?.reading_g).toBeUndefined();
  });

  it("uses a lot that is barred only by an owner with a reason", () => {
    const barred = [lot("P1", { why_not: "it waits to be accepted" })];
    const s = stage(live(300), barred);
    expect(s.key.now?.can).toBe(true); // nothing is chosen yet: the server asks for a lot
    s.reads(live(300), "P1");
    expect(s.key.now?.can).toBe(false);
    expect(screen.getByText(/An owner may use it with a reason/)).toBeTruthy();
    s.gone();
    const o = stage(live(300), barred, "owner");
    o.reads(live(300), "P1");
    fireEvent.change(screen.getByLabelText("Why it is used all the same"), { target: { value: "looked at it myself" } });
    expect(o.key.now?.can).toBe(true);
    o.press();
    expect(o.wrote[0].capture?.draws).toEqual([{ code: "P1", grams: 300, reason: "looked at it myself" }]);
  });

  it("takes a scanned lot, and says that another is none of the line", () => {
    const s = stage(live(0), [lot("P1001"), lot("P1002")]);
    s.reads(live(0), "p1002");
    expect(screen.getByText("P1002")).toBeTruthy();
    s.reads(live(0), "X9");
    expect(screen.getByRole("alert").textContent).toContain("“X9” is no lot of Rapeseed oil");
  });

  it("leaves the main key to whatever comes next", () => {
    const s = stage(live(300));
    s.gone();
    expect(s.key.now).toBeNull();
  });
});
