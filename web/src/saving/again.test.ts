import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Again, SOONER } from "./again";

describe("trying again", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  const went = () => {
    const go = vi.fn();
    return go;
  };

  it("waits longer each time, and no longer than the last", async () => {
    const again = new Again([1, 2]);
    for (const seconds of [1, 2, 2]) {
      const go = went();
      void again.rest().then(go);
      await vi.advanceTimersByTimeAsync(seconds * 1000 - 1);
      expect(go).not.toHaveBeenCalled();
      await vi.advanceTimersByTimeAsync(1);
      expect(go).toHaveBeenCalledOnce();
    }
    again.answered();
    const go = went();
    void again.rest().then(go);
    await vi.advanceTimersByTimeAsync(1000);
    expect(go).toHaveBeenCalledOnce();
  });

  it("is cut short, or given up", async () => {
    const again = new Again(SOONER);
    const go = went();
    void again.rest(60).then(go);
    again.now();
    await vi.advanceTimersByTimeAsync(0);
    expect(go).toHaveBeenCalledOnce();
    const never = went();
    void again.rest().then(never);
    again.stop();
    await vi.advanceTimersByTimeAsync(60_000);
    expect(never).not.toHaveBeenCalled();
    again.now();
    expect(never).not.toHaveBeenCalled();
  });
});
