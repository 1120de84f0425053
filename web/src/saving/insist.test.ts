// @vitest-environment happy-dom
import { beforeEach, describe, expect, it, vi } from "vitest";
import { ProblemError } from "../api/client";
import { actsAs } from "../api/guard";
import { insist, underKey } from "./insist";
import { anyUnsaved } from "./unsaved";

const away = () => new ProblemError({ status: 503, code: "unsure", title: "It is not known whether this was stored.", fields: [] });

describe("an act under its key", () => {
  beforeEach(() => actsAs("Ines"));

  it("keeps its key while no answer is known, and takes another once it is answered", async () => {
    const keys: string[] = [];
    const send = async (key: string) => {
      keys.push(key);
      if (keys.length === 1) throw away();
    };
    await expect(underKey("a jar", send)).rejects.toThrow("not known");
    await underKey("a jar", send);
    await underKey("a jar", send);
    expect(keys[1]).toBe(keys[0]);
    expect(keys[2]).not.toBe(keys[0]);
  });

  it("is another act where somebody else does it", async () => {
    const keys: string[] = [];
    const send = async (key: string) => {
      keys.push(key);
      throw away();
    };
    await underKey("a reading", send).catch(() => undefined);
    actsAs("Bram");
    await underKey("a reading", send).catch(() => undefined);
    expect(keys[1]).not.toBe(keys[0]);
  });

  it("says that the disk is full, where that is why", async () => {
    vi.useFakeTimers();
    const said: (string | undefined)[] = [];
    const codes = ["full", "away"];
    const done = insist("pH 4.05", "a full disk", async () => {
      const code = codes.shift();
      said.push(anyUnsaved()[0]?.why);
      if (code) throw new ProblemError({ status: 503, code, title: "", fields: [] });
    });
    await vi.advanceTimersByTimeAsync(120_000);
    await done;
    expect(said).toEqual([undefined, "The disk of the database is full", "Gallipot does not answer"]);
    vi.useRealTimers();
  });

  it("waits for who did it, however long somebody else is here", async () => {
    vi.useFakeTimers();
    const keys: string[] = [];
    const done = insist("pH 4.05", "reading", async (key) => {
      keys.push(key);
      if (keys.length === 1) throw away();
      return "stored";
    });
    await vi.advanceTimersByTimeAsync(0);
    actsAs("Bram");
    await vi.advanceTimersByTimeAsync(60_000);
    expect(keys).toHaveLength(1);
    expect(anyUnsaved().map((u) => `${u.what}, ${u.why}`)).toContain("pH 4.05, it waits here for Ines");
    actsAs("Ines");
    await vi.advanceTimersByTimeAsync(0);
    await expect(done).resolves.toBe("stored");
    expect(new Set(keys).size).toBe(1);
    expect(anyUnsaved()).toHaveLength(0);
    vi.useRealTimers();
  });
});
