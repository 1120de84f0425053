import { describe, expect, it } from "vitest";
import { measureWords } from "./measure";

describe("measures as people say them", () => {
  it.each([
    ["tbsp", "tbsp"],
    ["tbsp_heaping", "heaping tbsp"],
    ["cup_packed", "packed cup"],
    ["clove_large", "large clove"],
    ["can_400g_drained", "400 g tin, drained"],
    ["juice_of_one", "juice of one"],
  ])("%s is %s", (name, said) => expect(measureWords(name)).toBe(said));
});
