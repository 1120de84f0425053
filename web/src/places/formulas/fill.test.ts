import { expect, test } from "vitest";
import { guess } from "../shop/Packs";
import { fullness } from "./Fill";

const jar = { id: "a", name: "a", ml: 200, height_mm: 100, lid_mm: 12, shape: "round", diameter_mm: 65, wall_mm: 66 };

test("a jar tells how full it is, and when it runs over", () => {
  expect(fullness(jar, 190, 1).says).toBe("190 of 200 mL, 4 mm of headspace");
  expect(fullness(jar, 210, 1)).toEqual({ says: "it holds 200 mL to the brim; the fill is 210 mL", over: true });
  expect(fullness(jar, 190, 0).says).toBe("");
  expect(fullness(undefined, 190, 1).over).toBe(false);
});

test("sizes to begin with come from what a jar holds, and never over measured ones", () => {
  expect(guess({ id: "", name: "a", ml: 200 }, "round").diameter_mm).toBeGreaterThan(50);
  expect(guess(jar, "round")).toEqual({});
  expect(guess({ id: "", name: "a", ml: 200 }, "")).toEqual({});
});
