import { useCallback, useRef, useState } from "react";

/** Runs an act that makes something once at a time: [run, busy]. A second press while it is under way does nothing. */
export function useAct<A extends unknown[]>(act: (...args: A) => Promise<unknown>): [(...args: A) => Promise<void>, boolean] {
  const [busy, setBusy] = useState(false);
  const running = useRef(false);
  const latest = useRef(act);
  latest.current = act;
  const run = useCallback(async (...args: A) => {
    if (running.current) return;
    running.current = true;
    setBusy(true);
    try {
      await latest.current(...args);
    } finally {
      running.current = false;
      setBusy(false);
    }
  }, []);
  return [run, busy];
}
