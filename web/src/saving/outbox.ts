import { newKey, type Problem, problemOf, type Schemas } from "../api/client";
import { acting, onHands } from "../api/guard";
import { Again, SOONER } from "./again";
import { unanswered, whyOf } from "./saver";
import { unsaved } from "./unsaved";

export type Entry = Schemas["NewEntry"];
type Batch = Schemas["BatchView"];

/** One act of the bench that is not safe yet. It stays until the server has answered, over reloads and crashes. */
export interface Waiting {
  key: string;
  batch: number;
  entry: Entry;
  /** What it is, for a person. */
  what: string;
  /** Who did it: it is sent as theirs and as nobody else's. */
  by: string;
  /** Its place in the order of doing. */
  at: number;
  /** Why the server did not take it: a person looks at it. */
  refused?: string;
}

const PREFIX = "outbox ";
/** Nobody is signed in: what was weighed waits until somebody is, it is not refused. */
const ASKS_WHO = 401;
const UNTIL_SOMEBODY = 60;

const NOBODYS =
  "An earlier Gallipot kept this without a name. Look whether it is in the record; where it is missing, weigh or type it again.";

export type Send = (act: Waiting) => Promise<Batch>;
type Answered = (batch: number, next: Batch) => void;

/** Which batches have acts that wait in this browser. */
export function waitingBatches(store: Storage = localStorage): number[] {
  const ids = Object.keys(store).flatMap((k) => (k.startsWith(PREFIX) ? [Number(k.split(" ")[1])] : []));
  return [...new Set(ids)].filter((id) => id > 0);
}

let last = 0;

/** A time that is later than the one before, so that acts of one window stand in their order. */
function later(): number {
  last = Math.max(Date.now(), last + 1);
  return last;
}

/**
 * The tablet's outbox of one batch: each act is kept in the browser's own storage, in a place of its own, before anything
 * else; sent in the order of doing under its key, as its person's and only while that person is here; and let go only once
 * it is answered. However often one is sent, it is written down once.
 */
export class Outbox {
  private listeners = new Set<() => void>();
  private list: readonly Waiting[];
  private running = false;
  private readonly tries = new Again(SOONER);
  private closed = false;
  private readonly ends: (() => void)[] = [];

  constructor(
    private readonly batch: number,
    private readonly send: Send,
    private readonly answered: Answered,
    private readonly store: Storage = localStorage,
  ) {
    this.list = this.read();
    const elsewhere = (e: StorageEvent) => {
      if (e.key?.startsWith(`${this.id} `)) this.look();
    };
    window.addEventListener("storage", elsewhere);
    this.ends.push(onHands(this.again), () => window.removeEventListener("storage", elsewhere));
    this.tell();
    void this.run();
  }

  /** What waits, in the order in which it was done. */
  get waiting(): readonly Waiting[] {
    return this.list;
  }

  subscribe = (l: () => void) => {
    this.listeners.add(l);
    return () => this.listeners.delete(l);
  };

  snapshot = () => this.list;

  /** Keeps an act of who is here, then sends it. */
  put(entry: Entry, what: string): void {
    this.keep({ key: newKey(), batch: this.batch, entry, what, by: acting(), at: later() });
    this.again();
  }

  /** A person has seen why an act was not taken: it goes. */
  letGo(key: string): void {
    this.store.removeItem(this.placeOf(key));
    this.look();
  }

  /** Tries again at once. */
  again = () => {
    this.tries.now();
    void this.run();
  };

  /** Sends no more from this window; what waits stays kept. */
  close(): void {
    this.closed = true;
    this.tries.now();
    for (const end of this.ends) end();
    unsaved(this.id, null);
    unsaved(`${this.id} others`, null);
  }

  private get id() {
    return `${PREFIX}${this.batch}`;
  }

  private placeOf = (key: string) => `${this.id} ${key}`;

  private keep(w: Waiting) {
    this.store.setItem(this.placeOf(w.key), JSON.stringify(w));
    this.look();
  }

  private read(): readonly Waiting[] {
    const out = this.ofBefore();
    for (const place of Object.keys(this.store)) {
      if (!place.startsWith(`${this.id} `)) continue;
      try {
        out.push(JSON.parse(this.store.getItem(place) ?? "") as Waiting);
      } catch {
        // what is no act is none of ours
      }
    }
    return out.sort((a, b) => a.at - b.at || a.key.localeCompare(b.key));
  }

  /** Acts as an earlier version kept them: all in one place, and nobody's. A person looks at them. */
  private ofBefore(): Waiting[] {
    const kept = this.store.getItem(this.id);
    if (!kept) return [];
    try {
      for (const w of JSON.parse(kept) as Waiting[]) {
        const act = { ...w, by: "", at: later(), refused: w.refused ?? NOBODYS };
        this.store.setItem(this.placeOf(w.key), JSON.stringify(act));
      }
    } catch {
      // what is no list is none of ours
    }
    this.store.removeItem(this.id);
    return [];
  }

  private look() {
    this.list = this.read();
    this.tell();
  }

  /** Says what waits; why, where it was sent in vain. */
  private tell(vain: Problem | null = null) {
    const open = this.list.filter((w) => !w.refused);
    const mine = open.filter((w) => w.by === acting());
    const others = open.filter((w) => w.by !== acting());
    const what = (list: Waiting[]) => list.map((w) => w.what).join(", ");
    unsaved(
      this.id,
      mine.length === 0
        ? null
        : {
            what: what(mine),
            kept: true,
            ...(vain ? { away: true, why: whyOf(vain), again: this.again } : {}),
          },
    );
    const names = [...new Set(others.map((w) => w.by))].join(" and ");
    unsaved(`${this.id} others`, others.length === 0 ? null : { what: what(others), kept: true, why: `it waits here for ${names}` });
    for (const l of this.listeners) l();
  }

  private next = () => this.list.find((w) => !w.refused && w.by === acting());

  /** One window sends at a time: two of them would only send everything twice. */
  private async run() {
    if (this.running || this.closed) return;
    this.running = true;
    try {
      const locks = globalThis.navigator?.locks;
      if (locks) await locks.request(this.id, () => this.drain());
      else await this.drain();
    } finally {
      this.running = false;
    }
    if (!this.closed && this.next()) void this.run();
  }

  private async drain() {
    while (!this.closed) {
      this.list = this.read(); // another window sent some meanwhile
      const next = this.next();
      if (!next) {
        this.tell();
        return;
      }
      try {
        const view = await this.send(next);
        this.store.removeItem(this.placeOf(next.key));
        this.look();
        this.answered(this.batch, view);
        this.tries.answered();
      } catch (e) {
        const p = problemOf(e);
        if (unanswered(p) || p.status === ASKS_WHO) {
          this.tell(p);
          await this.tries.rest(p.status === ASKS_WHO ? UNTIL_SOMEBODY : undefined);
        } else {
          this.keep({ ...next, refused: sentenceOf(p) });
        }
      }
    }
  }
}

/** What a problem says, with what its fields add to it. */
export function sentenceOf(p: Problem): string {
  const plain = (s: string) => s.toLowerCase().replace(/[.\s]+$/, "");
  const more = p.fields.map((f) => f.message).filter((m) => plain(m) !== plain(p.title));
  return [p.title, ...new Set(more)].join(" ");
}
