import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { actsAs, answerWith, guarded } from "./guard";

const sent: { url: string; body: string; hands: string | null }[] = [];
let answers: number[] = [];

beforeEach(() => {
  sent.length = 0;
  vi.stubGlobal("fetch", async (r: Request) => {
    sent.push({ url: r.url, body: await r.text(), hands: r.headers.get("Gallipot-Person") });
    const status = answers.shift() ?? 200;
    return new Response(JSON.stringify(status === 401 ? { code: "locked", title: "Is it still you?" } : {}), { status });
  });
});
afterEach(() => vi.unstubAllGlobals());

const write = (path = "/batches/1/entries") => guarded(`http://shop.invalid/api${path}`, { method: "POST", body: "12.5 g" });

describe("an act that asks for the PIN", () => {
  it("is sent again as it was, once the same person has answered", async () => {
    answers = [401, 200];
    const asked: string[] = [];
    const end = answerWith(async (code, message) => asked.push(`${code}: ${message}`) > 0);
    expect((await write()).status).toBe(200);
    expect(asked).toEqual(["locked: Is it still you?"]);
    expect(sent.map((s) => s.body)).toEqual(["12.5 g", "12.5 g"]);
    end();
  });

  it("is not sent again where somebody else answered, or nobody", async () => {
    answers = [401];
    const end = answerWith(async () => false);
    expect((await write()).status).toBe(401);
    expect(sent).toHaveLength(1);
    end();
  });

  it("asks once for acts that meet the lock together", async () => {
    answers = [401, 401, 200, 200];
    let asked = 0;
    let answer: (same: boolean) => void = () => {};
    const end = answerWith(() => {
      asked++;
      return new Promise((done) => (answer = done));
    });
    const both = Promise.all([write(), write()]);
    await vi.waitFor(() => expect(sent).toHaveLength(2));
    await vi.waitFor(() => expect(asked).toBe(1));
    answer(true);
    expect((await both).map((r) => r.status)).toEqual([200, 200]);
    expect(asked).toBe(1);
    end();
  });

  it("says whose name the screen shows, the second time too", async () => {
    answers = [401, 200];
    actsAs("Inès");
    const end = answerWith(async () => true);
    await write();
    await guarded("http://shop.invalid/api/today");
    expect(sent.map((s) => s.hands)).toEqual(["In%C3%A8s", "In%C3%A8s", null]);
    actsAs("");
    end();
  });

  it("does not ask on the way in itself, nor where nobody listens", async () => {
    answers = [401, 401];
    const end = answerWith(async () => true);
    expect((await write("/session")).status).toBe(401);
    end();
    expect((await write()).status).toBe(401);
    expect(sent).toHaveLength(2);
  });
});
