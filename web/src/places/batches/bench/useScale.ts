import { useCallback, useEffect, useRef, useState } from "react";
import { type Reading, useLive } from "../../../api/queries/devices";
import type { Device } from "./desk";
import { Follow, type Pour, STILL } from "./pour";

export interface Live {
  /** Grams since the tare; null while nothing is heard. */
  net: number | null;
  steady: boolean;
  over: boolean;
  answers: boolean;
  heard: boolean;
  pour: Pour;
  tare: () => void;
}

const zeroKey = (id: string) => `zero ${id}`;

/** A scale as it is worked with: net of the tare, following the pour. The zero is kept over a reload. */
export function useScale(device: Device | undefined): Live {
  const id = device?.id;
  const division = device?.division_g ?? 0.1;
  const follow = useRef(new Follow(division));
  const [pour, setPour] = useState<Pour>(STILL);
  const [zero, setZero] = useState(0);
  const at = useRef<Reading | null>(null);
  useEffect(() => {
    follow.current = new Follow(division);
    setPour(STILL);
    setZero(id ? Number(sessionStorage.getItem(zeroKey(id)) ?? 0) : 0);
  }, [id, division]);
  const put = useCallback(
    (g: number) => {
      if (id) sessionStorage.setItem(zeroKey(id), String(g));
      setZero(g);
    },
    [id],
  );
  const hear = useCallback(
    (r: Reading) => {
      at.current = r;
      setPour(follow.current.next(r));
      // the scale's own zero was set, or it was emptied: it counts from there
      setZero((z) => {
        const gone = z > 0 && r.steady && Math.abs(r.value) <= division;
        if (gone && id) sessionStorage.removeItem(zeroKey(id));
        return gone ? 0 : z;
      });
    },
    [division, id],
  );
  const r = useLive(id, hear);
  const tare = useCallback(() => {
    if (at.current) put(at.current.value);
    follow.current.tare();
    setPour(STILL);
  }, [put]);
  const net = r?.answers && !r.over && !r.fault ? Number((r.value - zero).toFixed(3)) : null;
  return {
    net,
    steady: !!r?.answers && r.steady,
    over: !!r?.over,
    answers: !!r?.answers,
    heard: r !== null,
    pour: pour.stopped === null ? pour : { ...pour, stopped: pour.stopped - zero },
    tare,
  };
}
