import { newKey, type Problem, problemOf, type Schemas } from "../api/client";
import { Again, SOONER } from "./again";
import { unanswered } from "./saver";
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
  /** Why the server did not take it: a person looks at it. */
  refused?: string;
}

const PLACE = "outbox ";
/** Nobody is signed in: what was weighed waits until somebody is, it is not refused. */
const ASKS_WHO = 401;
const UNTIL_SOMEBODY = 60;

type Send = (batch: number, entry: Entry, key: string) => Promise<Batch>;
type Answered = (batch: number, next: Batch) => void;

/**
 * The tablet's outbox of one batch: acts are kept in the browser's own storage before anything else, sent one after the
 * other under their keys, and let go only once they are answered. However often one is sent, it is written down once.
 */
export class Outbox {
  private listeners = new Set<() => void>();
  private list: readonly Waiting[];
  private running = false;
  private readonly tries = new Again(SOONER);
  private closed = false;

  constructor(
    private readonly batch: number,
    private readonly send: Send,
    private readonly answered: Answered,
    private readonly store: Storage = localStorage,
  ) {
    this.list = this.read();
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

  /** Keeps an act, then sends it. */
  put(entry: Entry, what: string): void {
    this.save([...this.list, { key: newKey(), batch: this.batch, entry, what }]);
    this.tries.now();
    void this.run();
  }

  /** A person has seen why an act was not taken: it goes. */
  letGo(key: string): void {
    this.save(this.list.filter((w) => w.key !== key));
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
    unsaved(this.id, null);
  }

  private get id() {
    return `${PLACE}${this.batch}`;
  }

  private read(): readonly Waiting[] {
    try {
      return JSON.parse(this.store.getItem(this.id) ?? "[]") as Waiting[];
    } catch {
      return [];
    }
  }

  private save(list: readonly Waiting[]) {
    this.list = list;
    if (list.length === 0) this.store.removeItem(this.id);
    else this.store.setItem(this.id, JSON.stringify(list));
    this.tell();
  }

  private tell(away = false) {
    const open = this.list.filter((w) => !w.refused);
    unsaved(
      this.id,
      open.length === 0
        ? null
        : {
            what: open.map((w) => w.what).join(", "),
            kept: true,
            ...(away ? { away: true, why: "Gallipot does not answer", again: this.again } : {}),
          },
    );
    for (const l of this.listeners) l();
  }

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
    if (!this.closed && this.list.some((w) => !w.refused)) void this.run();
  }

  private async drain() {
    while (!this.closed) {
      const kept = this.read();
      if (kept.length !== this.list.length) this.list = kept; // another window sent some meanwhile
      const next = this.list.find((w) => !w.refused);
      if (!next) {
        this.tell();
        return;
      }
      try {
        const view = await this.send(this.batch, next.entry, next.key);
        this.save(this.list.filter((w) => w.key !== next.key));
        this.answered(this.batch, view);
        this.tries.answered();
      } catch (e) {
        const p = problemOf(e);
        if (unanswered(p) || p.status === ASKS_WHO) {
          this.tell(true);
          await this.tries.rest(p.status === ASKS_WHO ? UNTIL_SOMEBODY : undefined);
        } else {
          this.save(this.list.map((w) => (w.key === next.key ? { ...w, refused: sentenceOf(p) } : w)));
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
