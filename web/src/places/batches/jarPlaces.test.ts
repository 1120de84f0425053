import { describe, expect, it } from "vitest";
import { byPlace, PLACES, waysFrom } from "./jarPlaces";

const at = (place: string, jars: number, party_name?: string) => ({ place, jars, party_name, since: "2026-11-25T09:00:00Z" });

describe("where jars are", () => {
  it("puts places in the order of a jar's way and counts every jar once", () => {
    const got = byPlace([at("with", 12, "Kettle"), at("broken", 1), at("cold_room", 20), at("with", 8, "Deli")]);
    expect(got.map((x) => [x.place, x.jars])).toEqual([
      ["cold_room", 20],
      ["with", 20],
      ["broken", 1],
    ]);
    expect(got[1].who).toHaveLength(2);
  });
  it("leads nowhere that is no place, and never back to where they are", () => {
    for (const [place] of PLACES)
      for (const to of waysFrom(place)) {
        expect(PLACES.map(([p]) => p)).toContain(to);
        expect(to).not.toBe(place);
      }
  });
  it("offers what came back to be withdrawn first", () => {
    expect(waysFrom("returned")[0]).toBe("withdrawn");
    expect(waysFrom("with")).not.toContain("cold_room");
  });
});
