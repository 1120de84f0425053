// @vitest-environment happy-dom
import { beforeEach, describe, expect, it, vi } from "vitest";
import { ProblemError, type Schemas } from "../api/client";
import { actsAs } from "../api/guard";
import { type Entry, Outbox, type Waiting, waitingBatches } from "./outbox";
import { anyUnsaved } from "./unsaved";

const view = (id: number) => ({ id }) as unknown as Schemas["BatchView"];
const pour = (grams: number): Entry => ({ kind: "capture", capture: { load: 1, line: "oil", grams } });
const away = () => new ProblemError({ status: 0, code: "unreachable", title: "Gallipot does not answer.", fields: [] });
const no = (title: string) => new ProblemError({ status: 409, code: "behind", title, fields: [] });

/** A server that records each key once, and answers as instructed. */
function server() {
  const written = new Map<string, Entry>();
  const sent: string[] = [];
  const people: string[] = [];
  let answers: "yes" | "away" | "lost" | string = "yes";
  return {
    written,
    sent,
    people,
    says: (a: typeof answers) => {
      answers = a;
    },
    send: vi.fn(async ({ entry, key, by }: Waiting) => {
      people.push(by);
      sent.push(key);
      if (answers === "away") throw away();
      if (answers !== "yes" && answers !== "lost") throw no(answers);
      written.set(key, entry);
      if (answers === "lost") throw away(); // it was written down, and the answer did not come
      return view(1);
    }),
  };
}

const until = (ok: () => boolean) => vi.waitFor(() => expect(ok()).toBe(true), { timeout: 8000 });

describe("the outbox of a batch", () => {
  beforeEach(() => {
    localStorage.clear();
    actsAs("Ines");
  });

  it("lets an act go once it is answered", async () => {
    const s = server();
    const answered = vi.fn();
    const box = new Outbox(7, s.send, answered);
    box.put(pour(100), "100 g of oil");
    expect(box.waiting).toHaveLength(1);
    await until(() => box.waiting.length === 0);
    expect(s.written.size).toBe(1);
    expect(answered).toHaveBeenCalledWith(7, view(1));
    expect(localStorage.length).toBe(0);
    box.close();
  });

  it("keeps what was done over a reload and sends it once, in its order", async () => {
    const s = server();
    s.says("away");
    const first = new Outbox(7, s.send, vi.fn());
    first.put(pour(100), "100 g of oil");
    first.put(pour(50), "50 g of oil");
    await until(() => s.sent.length > 0);
    first.close(); // the tablet is switched off

    s.says("lost");
    const second = new Outbox(7, s.send, vi.fn());
    expect(second.waiting.map((w) => w.entry.capture?.grams)).toEqual([100, 50]);
    await until(() => s.written.size === 1);
    s.says("yes");
    second.again();
    await until(() => second.waiting.length === 0);
    expect([...s.written.values()].map((e) => e.capture?.grams)).toEqual([100, 50]);
    expect(new Set(s.sent).size).toBe(2); // however often they were sent
    second.close();
  });

  it("waits where nobody is signed in, and refuses nothing", async () => {
    const s = server();
    const ask = new ProblemError({ status: 401, code: "sign_in", title: "Say who you are first.", fields: [] });
    s.send.mockRejectedValueOnce(ask);
    const box = new Outbox(7, s.send, vi.fn());
    box.put(pour(100), "100 g of oil");
    await until(() => s.send.mock.calls.length === 1);
    expect(box.waiting[0].refused).toBeUndefined();
    box.again(); // somebody signed in
    await until(() => box.waiting.length === 0);
    expect(s.written.size).toBe(1);
    box.close();
  });

  it("shows why an act was not taken and goes on with the next", async () => {
    const s = server();
    s.says("Bram captured Oil meanwhile: 90 g are in the bowl.");
    const box = new Outbox(7, s.send, vi.fn());
    box.put(pour(100), "100 g of oil");
    await until(() => box.waiting.some((w) => !!w.refused));
    expect(box.waiting[0].refused).toContain("Bram captured Oil");
    s.says("yes");
    box.put(pour(20), "20 g of salt");
    await until(() => box.waiting.length === 1);
    expect(s.written.size).toBe(1);
    box.letGo(box.waiting[0].key);
    expect(box.waiting).toHaveLength(0);
    box.close();
  });

  it("waits for who did it, and is sent as nobody else's", async () => {
    const s = server();
    s.says("away");
    const box = new Outbox(7, s.send, vi.fn());
    box.put(pour(100), "100 g of oil");
    await until(() => s.sent.length === 1);
    actsAs("Bram");
    s.says("yes");
    box.put(pour(20), "20 g of salt");
    await until(() => s.written.size === 1);
    expect([...s.written.values()].map((e) => e.capture?.grams)).toEqual([20]);
    expect(box.waiting.map((w) => [w.by, w.entry.capture?.grams])).toEqual([["Ines", 100]]);
    expect(anyUnsaved().map((u) => `${u.what}, ${u.why}`)).toContain("100 g of oil, it waits here for Ines");
    actsAs("");
    box.again();
    expect(box.waiting).toHaveLength(1);
    actsAs("Ines"); // who comes back finds it sent
    await until(() => box.waiting.length === 0);
    expect(s.people).toEqual(["Ines", "Bram", "Ines"]);
    box.close();
  });

  it("overwrites nothing that another window keeps", async () => {
    const s = server();
    s.says("away");
    const one = new Outbox(7, s.send, vi.fn());
    const two = new Outbox(7, s.send, vi.fn());
    one.put(pour(100), "100 g of oil");
    two.put(pour(20), "20 g of salt");
    one.put(pour(30), "30 g of oil");
    expect(one.waiting).toHaveLength(3);
    one.close();
    two.close();
    const later = new Outbox(7, s.send, vi.fn());
    expect(later.waiting.map((w) => w.entry.capture?.grams)).toEqual([100, 20, 30]);
    expect(waitingBatches()).toEqual([7]);
    s.says("yes");
    later.again();
    await until(() => later.waiting.length === 0);
    expect(s.written.size).toBe(3);
    later.close();
  });

  it("shows a person what an earlier version kept without a name", () => {
    const s = server();
    localStorage.setItem("outbox 7", JSON.stringify([{ key: "k", batch: 7, entry: pour(100), what: "100 g of oil" }]));
    const box = new Outbox(7, s.send, vi.fn());
    expect(box.waiting.map((w) => w.refused)).toEqual([expect.stringContaining("without a name")]);
    expect(s.send).not.toHaveBeenCalled();
    box.letGo("k");
    expect(box.waiting).toHaveLength(0);
    expect(waitingBatches()).toEqual([]);
    box.close();
  });
});
