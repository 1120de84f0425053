import { useCallback, useEffect, useRef, useState } from "react";
import { type Reading, useLive } from "../../../api/queries/devices";
import type { Device } from "./desk";
import { Follow, type Pour, STILL } from "./pour";

export interface Live {
  /** Grams since the zero, also below it; null while nothing is heard or the scale was not tared. */
  net: number | null;
  /** What the scale shows, with all that stands on it; null while nothing is heard. */
  shows: number | null;
  steady: boolean;
  over: boolean;
  answers: boolean;
  heard: boolean;
  pour: Pour;
}

/** A scale as it is worked with: net of the zero that the batch knows, following the pour. */
export function useScale(device: Device | undefined, zero: number | null): Live {
  const id = device?.id;
  const division = device?.division_g ?? 0.1;
  const follow = useRef(new Follow(division));
  const [pour, setPour] = useState<Pour>(STILL);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another zero begins another pour
  useEffect(() => {
    follow.current = new Follow(division);
    setPour(STILL);
  }, [id, division, zero]);
  const hear = useCallback((r: Reading) => setPour(follow.current.next(r)), []);
  const r = useLive(id, hear);
  const shows = r?.answers && !r.over && !r.fault ? r.value : null;
  return {
    net: shows === null || zero === null ? null : Number((shows - zero).toFixed(3)),
    shows,
    steady: !!r?.answers && r.steady,
    over: !!r?.over,
    answers: !!r?.answers,
    heard: r !== null,
    pour: pour.stopped === null || zero === null ? pour : { ...pour, stopped: pour.stopped - zero },
  };
}

/** Why no weight can be taken from a scale now, in words; empty where it can. */
export function whyNot(live: Live, name: string): string {
  if (!live.heard) return `${name} has not been heard yet.`;
  if (!live.answers) return `${name} does not answer. Type the weight.`;
  if (live.over) return "Too much is on the scale. Take some off.";
  if (live.net === null) return `Put the bowl on ${name} and tare it first.`;
  if (live.net < 0) return "The scale is below its zero. Put the bowl back, or tare.";
  if (live.net === 0) return "Nothing was poured yet.";
  if (!live.steady) return "The scale is still moving. Wait until it is steady.";
  return "";
}

/** Why a scale cannot be tared now, in words; empty where it can. */
export function whyNoTare(live: Live, name: string): string {
  if (live.net === null && live.shows === null) return whyNot(live, name);
  if (!live.steady) return "The scale is still moving. Wait until it is steady, then tare.";
  return "";
}
