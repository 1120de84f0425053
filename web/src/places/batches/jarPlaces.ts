import type { Schemas } from "../../api/client";

export type JarsAt = Schemas["JarsAt"];

/** The places of jars in the order of a jar's way, as they are said. */
export const PLACES: [place: string, word: string][] = [
  ["filled", "on the bench"],
  ["untold", "from before jars were followed"],
  ["cold_room", "in the cold room"],
  ["samples", "kept as samples"],
  ["with", "with customers and markets"],
  ["returned", "came back"],
  ["withdrawn", "withdrawn"],
  ["broken", "broken"],
  ["opened", "opened here"],
];

export function placeWord(place: string): string {
  return PLACES.find(([p]) => p === place)?.[1] ?? place;
}

/** Jars by place, those with different parties put together. */
export function byPlace(at: readonly JarsAt[]): { place: string; jars: number; who: JarsAt[] }[] {
  return PLACES.map(([place]) => {
    const who = at.filter((x) => x.place === place);
    return { place, jars: who.reduce((s, x) => s + x.jars, 0), who };
  }).filter((x) => x.jars > 0);
}

/** Where jars may go from a place by hand, the usual way first. */
export function waysFrom(place: string): string[] {
  switch (place) {
    case "filled":
    case "untold":
      return ["cold_room", "with", "samples", "opened", "withdrawn", "broken"];
    case "cold_room":
      return ["with", "samples", "opened", "withdrawn", "broken"];
    case "samples":
      return ["opened", "cold_room", "withdrawn", "broken"];
    case "with":
      return ["returned", "withdrawn", "broken"];
    case "returned":
      return ["withdrawn", "broken", "cold_room"];
  }
  return ["cold_room"];
}
