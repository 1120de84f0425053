import { Checkbox } from "radix-ui";
import { useEffect, useState } from "react";
import { serverNow } from "../../../api/client";
import { useFormats } from "../../../parts/shop";
import type { Desk, ErrandState, LoadState } from "./desk";

/** Now, by the server's clock, every second. */
function useNow(): number {
  const [now, setNow] = useState(() => serverNow().getTime());
  useEffect(() => {
    const timer = setInterval(() => setNow(serverNow().getTime()), 500);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** mm:ss until a moment, or since. */
export function left(ms: number): string {
  const s = Math.max(0, Math.round(Math.abs(ms) / 1000));
  const h = Math.floor(s / 3600);
  const two = (n: number) => String(n).padStart(2, "0");
  return h > 0 ? `${h}:${two(Math.floor((s % 3600) / 60))}:${two(s % 60)}` : `${two(Math.floor(s / 60))}:${two(s % 60)}`;
}

/** Whether an errand is ticked, with what waits on this tablet. */
function ticked(desk: Desk, load: LoadState, e: ErrandState): boolean {
  let on = !!e.by;
  for (const w of desk.waiting) {
    const t = w.entry.ticked;
    if (t && !w.refused && t.load === load.no && t.key === e.key) on = !t.off;
  }
  return on;
}

export const allTicked = (desk: Desk, load: LoadState, list: readonly ErrandState[]) => list.every((e) => ticked(desk, load, e));

/** What is done and ticked; a step that takes its time has a timer. */
export function ErrandList({ desk, load, list }: { desk: Desk; load: LoadState; list: readonly ErrandState[] }) {
  const { num, celsius } = useFormats();
  const now = useNow();
  const tick = (e: ErrandState, off: boolean) =>
    desk.fact({ kind: "ticked", ticked: { load: load.no, key: e.key, ...(off ? { off: true } : {}) } }, e.text);
  const time = (e: ErrandState, stop: boolean) =>
    desk.fact(
      {
        kind: "timed",
        timed: { load: load.no, key: e.key, minutes: e.minutes ?? 0, from: serverNow().toISOString(), ...(stop ? { stop: true } : {}) },
      },
      `the timer of ${e.text}`,
    );
  return (
    <ul className="grid gap-2">
      {list.map((e) => {
        const on = ticked(desk, load, e);
        const until = e.until ? new Date(e.until).getTime() : null;
        const minutes = e.minutes ?? 0;
        return (
          <li
            key={e.key}
            className={`flex flex-wrap items-center gap-3 rounded-lg border-2 bg-white px-3 py-2 ${on ? "border-leaf" : "border-rule-strong"}`}
          >
            <Checkbox.Root
              checked={on}
              aria-label={e.text}
              onCheckedChange={() => tick(e, on)}
              className={`flex size-16 shrink-0 items-center justify-center rounded-lg border-3 text-display ${on ? "border-leaf bg-leaf text-white" : "border-rule-strong bg-white"}`}
            >
              <Checkbox.Indicator>✓</Checkbox.Indicator>
            </Checkbox.Root>
            <span className="min-w-45 flex-1 text-title leading-tight">
              <b className="font-semibold">{e.text}</b>
              <span className="block text-lead text-ink-2">
                {[e.look, (e.celsius ?? 0) !== 0 && celsius(e.celsius ?? 0), minutes > 0 && `${num(minutes)} min`, e.vessel]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
            </span>
            {minutes > 0 && !on && (
              <button
                type="button"
                className={`min-h-16 rounded-lg border-2 px-4 text-title font-semibold ${until === null ? "border-rule-strong bg-white" : now >= until ? "border-mustard bg-mustard-tint text-mustard-ink" : "border-cobalt bg-cobalt-tint"}`}
                onClick={() => time(e, until !== null)}
              >
                {until === null ? "Start the timer" : now >= until ? `over by ${left(now - until)}: stop` : `${left(until - now)} to go`}
              </button>
            )}
          </li>
        );
      })}
    </ul>
  );
}

/** What must be so before anything goes into the bowl. */
export function FirstStage({ desk, load, list }: { desk: Desk; load: LoadState; list: readonly ErrandState[] }) {
  return (
    <div>
      <h1 className="mb-4 font-title figure leading-none font-semibold max-tablet:text-display">Before anything goes in</h1>
      <ErrandList desk={desk} load={load} list={list} />
    </div>
  );
}

/** Timers that ran out ring, on whatever the bench shows, until somebody stops them. */
export function Ring({ desk }: { desk: Desk }) {
  const now = useNow();
  const due = desk.loads.flatMap((l) =>
    l.closed_by ? [] : l.errands.filter((e) => e.until && !e.by && new Date(e.until).getTime() <= now).map((e) => ({ load: l, e })),
  );
  const ringing = due.length > 0;
  useEffect(() => {
    if (!ringing) return;
    const beep = () => {
      try {
        const audio = new AudioContext();
        const tone = audio.createOscillator();
        tone.frequency.value = 880;
        tone.connect(audio.destination);
        tone.start();
        tone.stop(audio.currentTime + 0.35);
        tone.onended = () => void audio.close();
      } catch {
        // no sound here: it is seen all the same
      }
    };
    beep();
    const again = setInterval(beep, 4000);
    return () => clearInterval(again);
  }, [ringing]);
  if (!ringing) return null;
  return (
    <div
      role="alert"
      className="flex flex-wrap items-center gap-4 border-b-4 border-mustard bg-mustard-tint px-5 py-2 text-title font-semibold text-mustard-ink"
    >
      {due.map(({ load, e }) => (
        <span key={`${load.no}${e.key}`} className="flex items-center gap-3">
          Time is up: {e.text}
          <button
            type="button"
            className="min-h-16 rounded-lg border-2 border-mustard bg-white px-5"
            onClick={() =>
              desk.fact(
                {
                  kind: "timed",
                  timed: { load: load.no, key: e.key, minutes: e.minutes ?? 1, from: serverNow().toISOString(), stop: true },
                },
                `the timer of ${e.text}`,
              )
            }
          >
            I heard it
          </button>
        </span>
      ))}
    </div>
  );
}
