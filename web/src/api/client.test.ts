import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { api, fieldMessage, newKey, type Problem, ProblemError, problemOf, take } from "./client";

type Sent = { method: string; url: string; key: string | null };

const sent: Sent[] = [];
let answers: (() => Promise<Response>)[] = [];

const json = (status: number, body: unknown) => async () =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

beforeEach(() => {
  sent.length = 0;
  answers = [];
  vi.stubGlobal("fetch", async (r: Request) => {
    sent.push({ method: r.method, url: r.url, key: r.headers.get("Idempotency-Key") });
    const next = answers.shift();
    return next ? next() : json(200, {})();
  });
});
afterEach(() => vi.unstubAllGlobals());

const make = (name: string) =>
  api.POST("/formulas", { baseUrl: "http://shop.invalid/api", params: { header: {} as never }, body: { name }, fetch: globalThis.fetch });

const look = () => api.GET("/formulas", { baseUrl: "http://shop.invalid/api", fetch: globalThis.fetch });

describe("what is sent", () => {
  it("has a key of its own where it makes something, and none where it looks", async () => {
    await make("Leek dip");
    await make("Swede dip");
    await look();
    expect(sent.map((s) => s.method)).toEqual(["POST", "POST", "GET"]);
    expect(sent[0].key).toMatch(/^[0-9a-f]{32}$/);
    expect(sent[1].key).not.toBe(sent[0].key);
    expect(sent[2].key).toBeNull();
  });

  it("is one errand while its answer is out: a double press has one key", async () => {
    let answer: (r: Response) => void = () => {};
    answers = [() => new Promise((done) => (answer = done)), json(200, {})];
    const first = make("Leek dip");
    await vi.waitFor(() => expect(sent).toHaveLength(1));
    await make("Leek dip");
    answer(await json(200, {})());
    await first;
    expect(sent[1].key).toBe(sent[0].key);
  });

  it("keeps its key where no answer came, and takes a new one after any answer", async () => {
    answers = [
      async () => {
        throw new TypeError("the line is down");
      },
      json(503, { title: "away", fields: [] }),
      json(422, { title: "no", fields: [] }),
      json(200, {}),
    ];
    await make("Kale dip").catch(() => undefined);
    await make("Kale dip");
    await make("Kale dip");
    await make("Kale dip");
    expect(sent[1].key).toBe(sent[0].key);
    expect(sent[2].key).toBe(sent[0].key);
    expect(sent[3].key).not.toBe(sent[0].key);
  });
});

describe("take", () => {
  const answer = (status: number, error?: unknown) =>
    Promise.resolve({ data: status < 300 ? "made" : undefined, error, response: new Response(null, { status }) });

  it("gives the answer", async () => {
    expect(await take(answer(200))).toBe("made");
  });

  it("throws the problem as the server words it, with its fields", async () => {
    const p = { status: 422, code: "invalid", title: "Too many jars.", fields: [{ field: "jars", message: "up to 5000" }] };
    const caught = await take(answer(422, p)).catch((e) => e);
    expect(caught).toBeInstanceOf(ProblemError);
    expect(problemOf(caught)).toEqual(p);
    expect(fieldMessage(problemOf(caught), "jars")).toBe("up to 5000");
  });

  it("has a word for an answer that is none, and for no answer", async () => {
    expect(problemOf(await take(answer(502)).catch((e) => e)).title).toBe("Gallipot answered 502.");
    const down = await take(Promise.reject(new TypeError("down"))).catch((e) => e);
    expect(problemOf(down).code).toBe("unreachable");
    expect(problemOf(down).title).toContain("kept here");
    expect(problemOf("odd").code).toBe("unknown");
  });
});

describe("fieldMessage", () => {
  const p: Problem = {
    status: 422,
    code: "invalid",
    title: "No.",
    fields: [
      { field: "lines[2].grams", message: "too fine" },
      { field: "wording.names.gb", message: "too long" },
    ],
  };
  it("finds a field by its name or by that of its part, and no other", () => {
    expect(fieldMessage(p, "lines[2]")).toBe("too fine");
    expect(fieldMessage(p, "lines")).toBe("too fine");
    expect(fieldMessage(p, "wording.names")).toBe("too long");
    expect(fieldMessage(p, "line", "lines[1]")).toBe("");
    expect(fieldMessage(null, "lines")).toBe("");
  });
});

it("keys are never the same", () => {
  expect(new Set(Array.from({ length: 200 }, newKey)).size).toBe(200);
});
