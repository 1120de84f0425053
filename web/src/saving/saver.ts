import { type Problem, ProblemError, problemOf } from "../api/client";
import { Again } from "./again";
import { type Difference, merge, same } from "./merge";

/** Where what was typed stands. */
type Status =
  | "stored"
  | "saving"
  | "away" // the server does not answer; it is tried again by itself
  | "clash" // somebody else changed the same place: both sides are on screen until one is chosen
  | "asks" // the server asks for a reason first
  | "refused"; // the server says what is wrong with it; the next change is tried

export interface Held<T, V> {
  /** As the server has it. */
  view: V;
  /** As it stands on screen. */
  value: T;
  status: Status;
  problem: Problem | null;
  clashes: Difference[];
  theirs: V | null;
  savedAt: Date | null;
}

export interface How<T, V> {
  /** What it is, for a person: "Carrot and miso spread, version 3". */
  what: string;
  /** Where it can be looked at again. */
  link: string;
  bodyOf: (view: V) => T;
  revOf: (view: V) => number;
  send: (body: T, rev: number, why?: string) => Promise<V>;
  /** Called with every answer, to refresh what else shows it. */
  stored?: (view: V) => void;
  /** What the server settled by itself, taken into what is on screen without touching what is being typed. */
  follows?: (value: T, view: V) => T;
  /** Codes of refusals that a reason answers. */
  asks?: readonly string[];
  /** Others' changes were taken in; from is what both sides started from. */
  rebased?: (from: T, theirs: T) => void;
  /** Seconds to wait before each new try. */
  waits?: readonly number[];
}

/** The server did not answer, or not with a word of its own: trying again is safe and may help. */
export const unanswered = (p: Problem) => p.status === 0 || p.status === 502 || p.status === 503 || p.status === 504;

/** Why something waits that was not taken, and how it goes on. */
export const AWAY = { why: "Gallipot does not answer", until: "sent as soon as it does" };
export const FULL = { why: "The disk of the database is full", until: "stored as soon as there is room" };

export const whyOf = (p: Problem | null) => (p?.code === "full" ? FULL : AWAY).why;

/**
 * Keeps one thing that is typed and sees it stored. One request is on its way at a time; what is typed meanwhile goes with
 * the next. It outlives the screen that shows it, so that nothing is lost by going elsewhere.
 */
export class Saver<T, V> {
  held: Held<T, V>;
  how: How<T, V>;
  private base: T;
  private rev: number;
  private busy = false;
  private dirty = false;
  private why: string | undefined;
  private readonly tries: Again;
  private listeners = new Set<() => void>();
  /** Told of every change, whether or not a screen shows it. */
  watcher: () => void = () => {};

  constructor(view: V, how: How<T, V>) {
    this.how = how;
    this.tries = new Again(how.waits);
    this.base = how.bodyOf(view);
    this.rev = how.revOf(view);
    this.held = { view, value: this.base, status: "stored", problem: null, clashes: [], theirs: null, savedAt: null };
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };
  snapshot = () => this.held;
  get watched() {
    return this.listeners.size > 0;
  }

  private set(change: Partial<Held<T, V>>) {
    this.held = { ...this.held, ...change };
    for (const l of this.listeners) l();
    this.watcher();
  }

  /** Takes what was typed and sends it, as soon as nothing is in its way. */
  put = (value: T) => {
    this.dirty = true;
    this.set({ value });
    if (this.held.status === "clash" || this.held.status === "asks") return;
    void this.send();
  };

  /** Tries at once what waits. */
  again = () => {
    this.tries.stop();
    void this.send();
  };

  /** Whether anything typed is not stored. */
  get open() {
    return this.busy || this.dirty || this.held.status !== "stored";
  }

  private async send() {
    if (this.busy) return;
    this.tries.stop();
    this.busy = true;
    while (this.dirty) {
      this.dirty = false;
      const sent = this.held.value;
      const why = this.why;
      this.set({ status: "saving" });
      try {
        const view = await this.how.send(sent, this.rev, why);
        this.why = undefined;
        this.tries.answered();
        this.take(view, sent);
      } catch (e) {
        if (!this.failed(problemOf(e))) break;
      }
    }
    this.busy = false;
    if (!this.dirty && this.held.status === "saving") this.set({ status: "stored", savedAt: new Date() });
    else this.watcher();
  }

  /** The answer: what was typed meanwhile stands. */
  private take(view: V, sent: T) {
    this.rev = this.how.revOf(view);
    this.base = this.how.bodyOf(view);
    const untouched = !this.dirty && same(this.held.value, sent);
    const value = untouched ? this.base : this.how.follows ? this.how.follows(this.held.value, view) : this.held.value;
    this.set({ view, value, problem: null, clashes: [], theirs: null });
    this.how.stored?.(view);
  }

  /** Says what went wrong; true where it can go on at once. */
  private failed(p: Problem): boolean {
    if (p.status === 409 && p.current && p.code !== "locked_meanwhile") {
      const theirs = p.current as unknown as V;
      if (this.meet(theirs)) return true;
      this.set({ status: "clash", problem: p, theirs });
      return false;
    }
    this.dirty = true;
    if (p.status === 409) this.set({ status: "clash", problem: p, theirs: (p.current ?? null) as V | null, clashes: [] });
    else if (unanswered(p)) {
      void this.tries.rest().then(() => this.send());
      this.set({ status: "away", problem: p });
    } else if (this.how.asks?.includes(p.code) && !this.why) this.set({ status: "asks", problem: p });
    else {
      this.why = undefined;
      this.dirty = false;
      this.set({ status: "refused", problem: p });
    }
    return false;
  }

  /** Takes in what others changed; false where both changed the same place. */
  private meet(theirs: V): boolean {
    const body = this.how.bodyOf(theirs);
    const { value, clashes } = merge(this.base, this.held.value, body);
    if (clashes.length > 0) {
      this.dirty = true;
      this.set({ clashes });
      return false;
    }
    this.how.rebased?.(this.base, body);
    this.base = body;
    this.rev = this.how.revOf(theirs);
    this.dirty = !same(value, body);
    this.set({ value, view: theirs, clashes: [], theirs: null });
    if (!this.dirty) this.how.stored?.(theirs);
    return true;
  }

  /** The server's side was read anew, by this screen or another. */
  incoming = (view: V) => {
    const rev = this.how.revOf(view);
    if (this.busy || this.held.status === "clash" || rev < this.rev) return;
    if (rev === this.rev) {
      if (!this.open && view !== this.held.view) this.set({ view });
      return;
    }
    if (!this.meet(view)) {
      this.set({ status: "clash", problem: null, theirs: view });
      return;
    }
    if (this.dirty && this.held.status !== "refused" && this.held.status !== "asks") void this.send();
  };

  /** Starts from another view: what was typed goes. */
  adopt = (view: V) => {
    this.tries.stop();
    this.base = this.how.bodyOf(view);
    this.rev = this.how.revOf(view);
    this.dirty = false;
    this.why = undefined;
    this.set({ view, value: this.base, status: "stored", problem: null, clashes: [], theirs: null });
  };

  /** A clash is settled by a person: theirs, or mine wherever both changed, with what only they changed. */
  settle = (side: "mine" | "theirs") => {
    const theirs = this.held.theirs;
    if (!theirs) return;
    if (side === "theirs") {
      this.adopt(theirs);
      this.how.stored?.(theirs);
      return;
    }
    const body = this.how.bodyOf(theirs);
    const { value } = merge(this.base, this.held.value, body);
    this.how.rebased?.(this.base, body);
    this.base = body;
    this.rev = this.how.revOf(theirs);
    this.dirty = true;
    this.set({ value, status: "saving", problem: null, clashes: [], theirs: null });
    void this.send();
  };

  /** Gives the reason that the server asked for. Throws what it refuses then. */
  because = async (why: string, value = this.held.value) => {
    this.why = why;
    this.dirty = true;
    this.set({ value, status: "saving" });
    await this.send();
    const { problem } = this.held;
    if (problem && this.held.status !== "stored") {
      throw new ProblemError(problem);
    }
  };

  /** Lets go what is not stored, back to what the server has. */
  letGo = () => this.adopt(this.held.view);
}
