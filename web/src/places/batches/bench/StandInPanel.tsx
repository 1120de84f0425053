import { useState } from "react";
import { askDevice } from "../../../api/queries/devices";
import type { Device } from "./desk";

const RATES = [
  [4, "a trickle"],
  [30, "thin stream"],
  [150, "stream"],
  [600, "jug"],
] as const;

/** The hand at a stand-in scale: hold to pour, let go to stop. */
export function StandInPanel({ device }: { device: Device }) {
  const [rate, setRate] = useState(150);
  const [pouring, setPouring] = useState(false);
  const [wrong, setWrong] = useState("");
  const play = async (command: string) => {
    try {
      await askDevice(device.id, `sim ${command}`);
      setWrong("");
    } catch (e) {
      setWrong(String((e as Error).message));
    }
  };
  const begin = () => {
    setPouring(true);
    void play(`pour ${rate}`);
  };
  const end = () => {
    if (!pouring) return;
    setPouring(false);
    void play("stop");
  };
  return (
    <section
      aria-label="Stand-in scale"
      className="mt-auto border-t-2 border-dashed border-rule-strong bg-glaze px-3 py-2 text-note text-ink-2"
      data-stand-in
    >
      <p className="leading-tight">
        <b className="text-ink">{device.name}</b> is a stand-in: this is its hand.
      </p>
      <div className="mt-1 flex flex-wrap gap-1">
        {RATES.map(([r, text]) => (
          <button
            key={r}
            type="button"
            aria-pressed={rate === r}
            onClick={() => setRate(r)}
            className={`min-h-8 rounded-sm border px-2 ${rate === r ? "border-ink bg-ink text-white" : "border-rule-strong bg-white"}`}
          >
            {text}
          </button>
        ))}
      </div>
      <div className="mt-1 flex gap-1">
        <button
          type="button"
          className={`min-h-11 flex-1 touch-none rounded-md border-2 text-lead font-semibold ${pouring ? "border-cobalt bg-cobalt text-white" : "border-cobalt bg-white text-cobalt"}`}
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            begin();
          }}
          onPointerUp={end}
          onPointerCancel={end}
          onKeyDown={(e) => e.key === " " && !e.repeat && begin()}
          onKeyUp={(e) => e.key === " " && end()}
        >
          {pouring ? "pouring …" : "hold to pour"}
        </button>
        <button type="button" className="min-h-11 rounded-md border-2 border-rule-strong bg-white px-2" onClick={() => play("put -10")}>
          −10 g
        </button>
        <button type="button" className="min-h-11 rounded-md border-2 border-rule-strong bg-white px-2" onClick={() => play("clear")}>
          empty
        </button>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 font-semibold text-beet">
          {wrong}
        </p>
      )}
    </section>
  );
}
