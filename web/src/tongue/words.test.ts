import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { say, speak } from "./words";
import gb from "./words/en-GB.json";
import us from "./words/en-US.json";

describe("two word lists", () => {
  it("have the same keys", () => {
    expect(Object.keys(us).sort()).toEqual(Object.keys(gb).sort());
  });
  it("speak the shop's English, and count", () => {
    speak("en-US");
    expect([say("labour"), say("jars", { count: 1 }), say("jars", { count: 2 })]).toEqual(["Labor", "1 jar", "2 jars"]);
    speak("en-GB");
    expect([say("labour"), say("things", { count: 0 })]).toEqual(["Labour", "nothing needs a hand"]);
  });
});

/** Words that stand in one list and not in the other: they belong to one tongue. */
function onlyIn(one: Record<string, string>, other: Record<string, string>): Set<string> {
  const words = (text: string) => text.toLowerCase().match(/\p{L}{3,}/gu) ?? [];
  const common = new Set(Object.values(other).flatMap(words));
  return new Set(
    Object.values(one)
      .flatMap(words)
      .filter((w) => !common.has(w)),
  );
}

/** Text of a source file that a person may read: strings and what stands between tags, without comments. */
function said(source: string): string {
  return source
    .replace(/\/\*[\s\S]*?\*\//g, " ")
    .replace(/(^|\s)\/\/.*$/gm, " ")
    .replace(/^import .*$/gm, " ")
    .replace(/(["'`])[a-z_]+\1/g, " "); // a code of the records, not a word on screen
}

it("no word of one tongue stands in the code of a screen", () => {
  const ordinary = new Set(["used", "before", "can"]);
  const tongues = [...onlyIn(gb, us), ...onlyIn(us, gb)].filter((w) => !ordinary.has(w));
  expect(tongues).toContain("labour");
  expect(tongues).toContain("labor");
  const files = readdirSync("src", { recursive: true, encoding: "utf8" }).filter((f) => /\.tsx$/.test(f) && !/test/.test(f));
  const found: string[] = [];
  for (const f of files) {
    const text = said(readFileSync(join("src", f), "utf8"));
    for (const w of tongues) if (new RegExp(`(?<![\\w.?-])${w}(?![\\w(:}.=?-])`, "i").test(text)) found.push(`${f}: ${w}`);
  }
  expect(found).toEqual([]);
});
