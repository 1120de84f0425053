import { describe, expect, it } from "vitest";
import cases from "../../../internal/core/match/testdata/names.json";
import { fits, near, one, wordsIn } from "./names";

describe("names", () => {
  it.each(cases.words)("has the words of $name as the server has", ({ name, words }) => expect(wordsIn(name)).toBe(words));

  it.each(cases.one)("finds the one that goes by “$name”", ({ name, id }) => expect(one(cases.pantry, name)?.id ?? "").toBe(id));

  it("offers what begins with the words first, then what is called so too", () => {
    expect(near(cases.pantry, "sun").map((x) => x.id)).toEqual(["sunflower-oil", "sunflower-seeds"]);
    expect(near(cases.pantry, "oil sun").map((x) => x.id)).toEqual(["sunflower-oil"]);
    expect(near(cases.pantry, "miso").map((x) => x.id)).toEqual(["white-miso", "red-miso"]);
    expect(near(cases.pantry, "shiro").map((x) => x.id)).toEqual(["white-miso"]);
    expect(near(cases.pantry, "shiro oil")).toEqual([]);
  });

  it("fits all while nothing is typed", () => expect(fits({ name: "Salt" }, " ")).toBe(1));
});
