// @vitest-environment happy-dom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ProblemError } from "../api/client";
import { insist, underKey } from "./insist";
import { Saver } from "./saver";
import { anyUnsaved } from "./unsaved";

interface View {
  rev: number;
  body: { a: number; b: number };
}

const problem = (status: number, code = "x", current?: View) =>
  new ProblemError({ status, code, title: `${status}`, fields: [], current } as never);

/** A server of one thing, as the app's: over an older revision it answers with what it has. */
function server(body = { a: 1, b: 1 }) {
  const s = {
    view: { rev: 1, body } as View,
    away: false,
    calls: [] as { body: View["body"]; why?: string }[],
    hold: null as Promise<void> | null,
    refuses: null as null | ProblemError,
    send: async (next: View["body"], rev: number, why?: string): Promise<View> => {
      s.calls.push({ body: next, why });
      await s.hold;
      if (s.away) throw problem(0, "unreachable");
      if (s.refuses && !why) throw s.refuses;
      if (rev !== s.view.rev) throw problem(409, "changed_meanwhile", s.view);
      s.view = { rev: rev + 1, body: next };
      return s.view;
    },
  };
  return s;
}

const saverOf = (s: ReturnType<typeof server>) =>
  new Saver<View["body"], View>(s.view, {
    what: "it",
    link: "/it",
    bodyOf: (v) => v.body,
    revOf: (v) => v.rev,
    send: s.send,
    asks: ["loses"],
    waits: [1],
  });

const settled = () => vi.advanceTimersByTimeAsync(0);

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe("an autosave", () => {
  it("sends one request at a time, and what is typed meanwhile with the next", async () => {
    const s = server();
    const saver = saverOf(s);
    let go = () => {};
    s.hold = new Promise((r) => (go = r));
    saver.put({ a: 2, b: 1 });
    saver.put({ a: 23, b: 1 });
    saver.put({ a: 234, b: 1 });
    expect(s.calls).toHaveLength(1);
    expect(saver.open).toBe(true);
    go();
    await settled();
    expect(s.calls.map((c) => c.body.a)).toEqual([2, 234]);
    expect(saver.held).toMatchObject({ status: "stored", value: { a: 234 } });
    expect(saver.open).toBe(false);
  });

  it("says that the server is away, goes on taking what is typed, and stores it once it is back", async () => {
    const s = server();
    s.away = true;
    const saver = saverOf(s);
    saver.put({ a: 2, b: 1 });
    await settled();
    expect(saver.held.status).toBe("away");
    saver.put({ a: 3, b: 1 });
    await settled();
    s.away = false;
    await vi.advanceTimersByTimeAsync(1100);
    expect(saver.held.status).toBe("stored");
    expect(s.view.body.a).toBe(3);
  });

  it("takes in what others changed elsewhere, without a question", async () => {
    const s = server();
    const saver = saverOf(s);
    s.view = { rev: 2, body: { a: 1, b: 9 } };
    saver.put({ a: 5, b: 1 });
    await settled();
    expect(s.view.body).toEqual({ a: 5, b: 9 });
    expect(saver.held).toMatchObject({ status: "stored", value: { a: 5, b: 9 } });
  });

  it("keeps both sides of a clash, and sends nothing until one is chosen", async () => {
    const s = server();
    const saver = saverOf(s);
    s.view = { rev: 2, body: { a: 7, b: 9 } };
    saver.put({ a: 5, b: 1 });
    await settled();
    expect(saver.held).toMatchObject({ status: "clash", value: { a: 5 }, theirs: { body: { a: 7 } } });
    const sent = s.calls.length;
    saver.put({ a: 6, b: 1 });
    await settled();
    expect(s.calls).toHaveLength(sent);
    saver.settle("mine");
    await settled();
    expect(s.view.body).toEqual({ a: 6, b: 9 });
  });

  it("lets theirs stand where that is chosen", async () => {
    const s = server();
    const saver = saverOf(s);
    s.view = { rev: 2, body: { a: 7, b: 9 } };
    saver.put({ a: 5, b: 1 });
    await settled();
    saver.settle("theirs");
    expect(saver.held).toMatchObject({ status: "stored", value: { a: 7, b: 9 } });
    expect(saver.open).toBe(false);
  });

  it("takes an answer that was lost for what it was: its own", async () => {
    const s = server();
    const saver = saverOf(s);
    s.view = { rev: 2, body: { a: 5, b: 1 } }; // stored, and the answer never came
    saver.put({ a: 5, b: 1 });
    await settled();
    expect(saver.held).toMatchObject({ status: "stored", value: { a: 5 } });
  });

  it("asks for the reason once, and sends it with what was typed", async () => {
    const s = server();
    s.refuses = problem(422, "loses");
    const saver = saverOf(s);
    saver.put({ a: 5, b: 1 });
    await settled();
    expect(saver.held.status).toBe("asks");
    await saver.because("it was a slip");
    expect(s.calls.at(-1)).toEqual({ body: { a: 5, b: 1 }, why: "it was a slip" });
    expect(saver.held.status).toBe("stored");
  });

  it("keeps what is refused on screen, and tries the next change", async () => {
    const s = server();
    s.refuses = problem(422, "invalid");
    const saver = saverOf(s);
    saver.put({ a: -5, b: 1 });
    await settled();
    expect(saver.held).toMatchObject({ status: "refused", value: { a: -5 } });
    s.refuses = null;
    saver.put({ a: 5, b: 1 });
    await settled();
    expect(saver.held.status).toBe("stored");
  });

  it("takes a newer reading in, and an older one not", async () => {
    const s = server();
    const saver = saverOf(s);
    saver.incoming({ rev: 3, body: { a: 4, b: 4 } });
    expect(saver.held.value).toEqual({ a: 4, b: 4 });
    saver.incoming({ rev: 2, body: { a: 0, b: 0 } });
    expect(saver.held.value).toEqual({ a: 4, b: 4 });
  });
});

describe("one key an act", () => {
  it("is kept over retries, and new for the next act", async () => {
    const keys: string[] = [];
    let away = true;
    const act = async (key: string) => {
      keys.push(key);
      if (away) throw problem(0, "unreachable");
      return "done";
    };
    await expect(underKey("plan", act)).rejects.toThrow();
    away = false;
    await underKey("plan", act);
    await underKey("plan", act);
    expect(keys[0]).toBe(keys[1]);
    expect(keys[2]).not.toBe(keys[0]);
  });

  it("a weighing is sent until it is answered, and said not to be stored meanwhile", async () => {
    const keys: string[] = [];
    let away = true;
    const done = insist("a weighing", "batch 1 weighing", async (key) => {
      keys.push(key);
      if (away) throw problem(0, "unreachable");
      return "written";
    });
    await settled();
    expect(anyUnsaved().map((u) => [u.what, u.away])).toEqual([["a weighing", true]]);
    away = false;
    await vi.advanceTimersByTimeAsync(1100);
    expect(await done).toBe("written");
    expect(new Set(keys).size).toBe(1);
    expect(anyUnsaved()).toEqual([]);
  });

  it("a refusal ends it", async () => {
    await expect(
      insist("a weighing", "w", async () => {
        throw problem(422, "invalid");
      }),
    ).rejects.toThrow("422");
    expect(anyUnsaved()).toEqual([]);
  });
});
