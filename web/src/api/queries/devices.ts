import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Schemas, take } from "../client";
import { keys } from "./keys";

export type Reading = Schemas["DeviceReading"];

export const useDevices = (every?: number) =>
  useQuery({ queryKey: keys.devices.all, queryFn: () => take(api.GET("/devices")), refetchInterval: every });

/** How long one asks for a reading before it is asked again, in ms; the server answers sooner. */
const PATIENCE = 4000;

/** What a device tells, as it tells it; null before the first word. onReading hears each, in order. */
export function useLive(id: string | undefined, onReading?: (r: Reading) => void): Reading | null {
  const [now, setNow] = useState<Reading | null>(null);
  useEffect(() => {
    setNow(null);
    if (!id) return;
    const over = new AbortController();
    const listen = async () => {
      let after = 0;
      while (!over.signal.aborted) {
        try {
          const r = await take(
            api.GET("/devices/{id}/reading", {
              params: { path: { id }, query: { after } },
              signal: AbortSignal.any([over.signal, AbortSignal.timeout(PATIENCE)]),
            }),
          );
          if (over.signal.aborted) return;
          if (r.seq !== after || !r.answers) {
            setNow(r);
            onReading?.(r);
          }
          if (r.answers) after = r.seq;
          else await new Promise((go) => setTimeout(go, 300));
        } catch {
          if (over.signal.aborted) return;
          setNow((old) => (old ? { ...old, answers: false, steady: false } : old));
          await new Promise((go) => setTimeout(go, 500));
        }
      }
    };
    void listen();
    return () => over.abort();
  }, [id, onReading]);
  return now;
}

export const askDevice = (id: string, command: string) =>
  take(api.POST("/devices/{id}/ask", { params: { path: { id } }, body: { command } }));
