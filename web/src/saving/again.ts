/** Seconds before each new try of what is typed or weighed, where nothing answered; the last goes on. */
const PATIENT = [1, 2, 4, 8, 15] as const;
/** At the bench, where hands wait. */
export const SOONER = [0.5, 1, 2, 4, 8] as const;

/** The one way to retry: it waits longer each time, can be cut short, and starts over once something answers. */
export class Again {
  private tries = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private go: (() => void) | undefined;

  constructor(private readonly waits: readonly number[] = PATIENT) {}

  /** Rests before the next try; so many seconds where that is said, else a little longer than the time before. */
  rest(seconds?: number): Promise<void> {
    const s = seconds ?? this.waits[Math.min(this.tries++, this.waits.length - 1)];
    return new Promise((go) => {
      this.go = go;
      this.timer = setTimeout(this.now, s * 1000);
    });
  }

  /** Cuts a rest short. */
  now = () => {
    clearTimeout(this.timer);
    const go = this.go;
    this.go = undefined;
    go?.();
  };

  /** Gives a rest up: what waits for it never goes on. */
  stop() {
    clearTimeout(this.timer);
    this.go = undefined;
  }

  /** Something answered: the next rest is the first again. */
  answered() {
    this.tries = 0;
  }
}
