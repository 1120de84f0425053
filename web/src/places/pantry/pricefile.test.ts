import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { packWords } from "./Offers";
import { base64Of, opens, times } from "./PriceFile";
import { apart } from "./PriceLine";

const row = (c: Partial<Schemas["PriceFound"]>): Schemas["PriceFound"] => ({
  line: 2,
  text: "Miso",
  ingredient: "miso_white",
  name: "White miso",
  suggested: [],
  offer: { supplier: "Brackwater", pack_amount: 1000, pack_unit: "g", price: 9.9, date: "2026-11-20" },
  was_per_kg: 10.9,
  becomes_per_kg: 9.9,
  held: false,
  same: false,
  left: false,
  wrong: [],
  ...c,
});

describe("what a row of a price file still asks", () => {
  it("asks which it is before anything else", () => {
    expect(opens(row({}))).toBe("");
    expect(opens(row({ ingredient: "", wrong: [{ field: "price", message: "no" }] }))).toBe("which");
    expect(opens(row({ wrong: [{ field: "price", message: "no" }] }))).toBe("wrong");
  });
  it("holds a price that moves far until it is confirmed, and asks nothing of what is left out", () => {
    expect(opens(row({ held: true }))).toBe("far");
    expect(opens(row({ held: true }), { leave: false, confirmed: true })).toBe("");
    expect(opens(row({ held: true, left: true, ingredient: "" }))).toBe("");
  });
});

it("says by how much a price moves", () => {
  expect(times(3.4)).toBe("3.4 times as much");
  expect(times(0.25)).toBe("4.0 times less");
  expect(times(0)).toBe("");
});

it("sends a file as its bytes", async () => {
  expect(await base64Of(new Blob([new Uint8Array([0xff, 0xfe, 0x41, 0x00])]))).toBe("//5BAA==");
  const long = new Uint8Array(70_000).fill(65);
  expect(atob(await base64Of(new Blob([long]))).length).toBe(70_000);
});

it("moves words beside lines apart, and leaves those that are", () => {
  expect(apart([20, 22, 60])).toEqual([20, 33, 60]);
  expect(apart([22, 20])).toEqual([33, 20]);
  expect(apart([])).toEqual([]);
});

it("tells a pack as it is sold", () => {
  expect(packWords({ pack_amount: 5000, pack_unit: "g" })).toBe("5 kg");
  expect(packWords({ pack_amount: 750, pack_unit: "ml" })).toBe("750 mL");
  expect(packWords({ pack_amount: 3785.412, pack_unit: "ml" })).toBe("3.79 L");
  expect(packWords({ pack_amount: 240, pack_unit: "piece" })).toBe("240 pieces");
  expect(packWords({ pack_amount: 1, pack_unit: "piece" })).toBe("a piece");
});
