import { expect, test } from "vitest";
import { guess } from "./Packs";

const jar = { id: "a", name: "a", ml: 200, height_mm: 100, lid_mm: 12, shape: "round", diameter_mm: 65, wall_mm: 66 };

test("sizes to begin with come from what a jar holds, and never over measured ones", () => {
  expect(guess({ id: "", name: "a", ml: 200 }, "round").diameter_mm).toBeGreaterThan(50);
  expect(guess(jar, "round")).toEqual({});
  expect(guess({ id: "", name: "a", ml: 200 }, "")).toEqual({});
});
