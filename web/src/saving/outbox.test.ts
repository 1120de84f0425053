// @vitest-environment happy-dom
import { beforeEach, describe, expect, it, vi } from "vitest";
import { ProblemError, type Schemas } from "../api/client";
import { type Entry, Outbox } from "./outbox";

const view = (id: number) => ({ id }) as unknown as Schemas["BatchView"];
const pour = (grams: number): Entry => ({ kind: "capture", capture: { load: 1, line: "oil", grams } });
const away = () => new ProblemError({ status: 0, code: "unreachable", title: "Gallipot does not answer.", fields: [] });
const no = (title: string) => new ProblemError({ status: 409, code: "behind", title, fields: [] });

/** A server that records each key once, and answers as instructed. */
function server() {
  const written = new Map<string, Entry>();
  const sent: string[] = [];
  let answers: "yes" | "away" | "lost" | string = "yes";
  return {
    written,
    sent,
    says: (a: typeof answers) => {
      answers = a;
    },
    send: vi.fn(async (_batch: number, entry: Entry, key: string) => {
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
  beforeEach(() => localStorage.clear());

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
});
