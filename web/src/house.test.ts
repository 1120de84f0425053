import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, normalize } from "node:path";
import { expect, it } from "vitest";

const files = readdirSync("src", { recursive: true, encoding: "utf8" }).filter((f) => /\.tsx?$/.test(f) && !/\.d\.ts$/.test(f));
const code = files.filter((f) => !/\.test\.tsx?$/.test(f));
const text = new Map(files.map((f) => [f, readFileSync(join("src", f), "utf8")]));
const style = readFileSync("src/style/base.css", "utf8");

/** What a file imports of ours, types too; what is fetched only when it is shown does not count. */
function imports(file: string): string[] {
  const out: string[] = [];
  for (const [, from] of (text.get(file) ?? "").matchAll(/^(?:import|export)\s+[^;]*?\s*from\s+"(\.[^"]+)"/gm)) {
    const at = normalize(join(dirname(file), from));
    const hit = [`${at}.ts`, `${at}.tsx`].find((f) => text.has(f));
    if (hit) out.push(hit);
  }
  return out;
}

/** Files that import each other over others, each circle once. */
function circles(): string[][] {
  const index = new Map<string, number>();
  const low = new Map<string, number>();
  const stack: string[] = [];
  const found: string[][] = [];
  const walk = (f: string) => {
    index.set(f, index.size);
    low.set(f, index.get(f) as number);
    stack.push(f);
    for (const to of imports(f)) {
      if (!index.has(to)) walk(to);
      if (stack.includes(to)) low.set(f, Math.min(low.get(f) as number, low.get(to) as number));
    }
    if (low.get(f) !== index.get(f)) return;
    const circle = stack.splice(stack.indexOf(f));
    if (circle.length > 1) found.push(circle.sort());
  };
  for (const f of code) if (!index.has(f)) walk(f);
  return found;
}

/** The names that a token of the style has. */
const named = (token: string) => [...style.matchAll(new RegExp(`--${token}-([a-z]+): [0-9]`, "g"))].map((m) => m[1]);

/** Every match in the code of the screens, with its file. */
function uses(pattern: RegExp): string[] {
  return code.flatMap((f) => [...(text.get(f) ?? "").matchAll(pattern)].map((m) => `${f}: ${m[0]}`));
}

it("no file imports what imports it", () => {
  expect(imports("main.tsx")).toContain("parts/frame.tsx");
  expect(circles()).toEqual([]);
});

it("text has five sizes, and each has a name", () => {
  expect(named("text")).toEqual(["note", "body", "lead", "title", "display"]);
  expect(uses(/\btext-\[[0-9.]+(px|r?em)\]/g)).toEqual([]);
  expect(uses(/\btext-(xs|sm|base|lg|xl|\dxl)\b/g)).toEqual([]);
});

it("what stands beside another keeps to one scale", () => {
  expect(uses(/(?<![\w-])-?(p|m)[xytrbl]?-\[[^\]]+\]|(?<![\w-])(gap|space)(-[xy])?-\[[^\]]+\]/g)).toEqual([]);
  expect(
    uses(/(?<![\w-])((min|max)-)?(w|h|size|top|right|bottom|left|rounded|leading|tracking|border)(-[a-z]+)?-\[[0-9.]+(px)?\]/g),
  ).toEqual([]);
});

it("the window has three widths at which a screen is laid anew", () => {
  expect(named("breakpoint")).toEqual(["phone", "tablet", "desk"]);
  expect(uses(/\b(min|max)-\[\d+px\]:/g)).toEqual([]);
  expect(uses(/(?<![\w-])(max-)?(sm|md|lg|xl|2xl):[a-z]/g)).toEqual([]);
  expect(style.match(/@media \((?!print|prefers)[^)]*\d+px/g)).toBeNull();
});

it("nothing looks again and again for what it could be told", () => {
  const clocks = ["places/recalls/Recall.tsx", "places/batches/bench/Errands.tsx"]; // they show the time
  const server = ["saving/Strip.tsx"]; // it asks a server that does not answer
  const found = uses(/setInterval\(/g).map((u) => u.split(":")[0]);
  expect(found.filter((f) => ![...clocks, ...server].includes(f))).toEqual([]);
});

it("nothing is handed out that nobody takes", () => {
  const idle: string[] = [];
  for (const f of code)
    for (const [, name] of (text.get(f) ?? "").matchAll(/^export (?:async )?(?:function|const|class|interface|type) (\w+)/gm))
      if (!files.some((g) => g !== f && new RegExp(`\\b${name}\\b`).test(text.get(g) ?? ""))) idle.push(`${f}: ${name}`);
  expect(idle).toEqual([]);
});
