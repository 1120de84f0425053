/** Keys of a scanner come faster than any hand types. */
const FAST_MS = 50;
const LEAST = 4;

export type Heard = { kind: "scan"; code: string } | { kind: "key"; key: string } | { kind: "none" };

/**
 * Tells a keyboard wedge from a hand: a scanner types its code without a pause and ends it with Enter. A single key is
 * handed on once it is clear that no more follow.
 */
export class Wedge {
  private typed = "";
  private last = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly onHeard: (h: Heard) => void) {}

  /** Takes a key at a time in ms; whether it is to be kept from the page. */
  key(key: string, at: number): boolean {
    const fast = at - this.last < FAST_MS;
    this.last = at;
    clearTimeout(this.timer);
    if (key === "Enter") {
      const code = fast ? this.typed : "";
      this.typed = "";
      this.onHeard(code.length >= LEAST ? { kind: "scan", code } : { kind: "key", key });
      return true;
    }
    if (key.length > 1) {
      this.typed = "";
      this.onHeard({ kind: "key", key });
      return key === "Backspace";
    }
    this.typed = fast ? this.typed + key : key;
    if (this.typed.length === 1) this.timer = setTimeout(() => this.onHeard({ kind: "key", key }), FAST_MS + 10);
    return true;
  }

  close() {
    clearTimeout(this.timer);
  }
}
