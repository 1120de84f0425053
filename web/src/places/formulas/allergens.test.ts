import { describe, expect, it } from "vitest";
import { allergensOf, allergenWords } from "./Panel";

describe("the allergens of a product in a cell", () => {
  it("are never none while a packet waits to be read", () => {
    expect(allergensOf({ allergens: [], open: 0 })).toBe("none");
    expect(allergensOf({ allergens: [], open: 1 })).toBe("not known yet");
    expect(allergensOf({ allergens: ["milk:goat", "nut:walnut"], open: 2 })).toBe("at least goat milk, walnut");
    expect(allergensOf({ allergens: ["soy"], open: 0 })).toBe("soy");
  });
  it("name the kind, and say where it is not named", () => {
    expect(allergenWords(["fish:species not named", "tree_nut:pine_nut", "peanut"])).toBe("fish, kind not named, pine nut, peanut");
  });
});
