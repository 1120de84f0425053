import { QueryClient } from "@tanstack/react-query";
import { expect, it } from "vitest";
import { age, keys, refresh } from "./keys";

const made = Object.entries(keys).flatMap(([area, of]) =>
  Object.entries(of).map(([name, k]) => ({
    name: `${area}.${name}`,
    area,
    key: (typeof k === "function" ? (k as (...a: unknown[]) => unknown[])("a", "b", "c", "d") : k) as unknown[],
  })),
);

it("no two answers are kept in one place", () => {
  const places = made.map((m) => JSON.stringify(m.key));
  expect(new Set(places).size).toBe(places.length);
});

it("a key stands only under keys of its own area", () => {
  for (const a of made) {
    for (const b of made) {
      const under = b.key.length > a.key.length && JSON.stringify(b.key.slice(0, a.key.length)) === JSON.stringify(a.key);
      if (under) expect(b.area, `${b.name} under ${a.name}`).toBe(a.area);
    }
  }
});

it("a list that is refreshed takes its parts with it, and typing only ages them", async () => {
  const client = new QueryClient();
  for (const key of [keys.batches.list(), keys.batches.dates, keys.lots.stock]) client.setQueryData(key, []);
  const old = (key: readonly unknown[]) => client.getQueryState(key)?.isInvalidated;
  await refresh(client, keys.batches.lists);
  expect([old(keys.batches.list()), old(keys.batches.dates), old(keys.lots.stock)]).toEqual([true, true, false]);
  age(client, keys.lots.stock);
  expect(old(keys.lots.stock)).toBe(true);
});
