import { useState } from "react";
import { serverNow } from "../../../api/client";
import { useLive } from "../../../api/queries/devices";
import { useFormats } from "../../../parts/shop";
import { readQuantity } from "../../../tongue/quantity";
import type { Cooling, Desk } from "./desk";

/** The temperature from which a cooling log begins, in °C (135 °F, FDA Food Code 3-501.14). */
const BEGINS = 57;

/** The way down of something hot: what was taken, where it has to be by when, and the next temperature. */
export function CoolingLog({ desk, log }: { desk: Desk; log: Cooling }) {
  const { clock, celsius, num } = useFormats();
  const probe = desk.devices.find((d) => d.kind === "probe" && d.counts);
  const r = useLive(probe?.id);
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState("");
  const put = (c: number, from?: string) => {
    desk.fact(
      { kind: "cooled", cooled: { what: log.what, celsius: c, at: serverNow().toISOString(), ...(from ? { probe: from } : {}) } },
      `${num(c, 1)} °C of ${log.name}`,
    );
    setTyped("");
    setWrong("");
  };
  const typing = () => {
    const t = readQuantity(typed, { measure: "temperature" });
    if (t.kind === "value") put(t.value);
    else setWrong(t.kind === "wrong" || t.kind === "ask" ? t.why : "what does the probe say?");
  };
  const waiting = desk.waiting.filter((w) => !w.refused && w.entry.cooled?.what === log.what).length;
  const tone = log.state === "missed" ? "border-beet" : log.state === "met" ? "border-leaf" : "border-mustard";
  return (
    <section className={`border-l-4 ${tone} pl-3`} aria-label={`Cooling log of ${log.name}`}>
      <p className="text-title">
        <b className="font-semibold">{log.name}</b>{" "}
        <span className={log.state === "missed" ? "font-semibold text-beet" : "text-ink-2"}>{log.word}</span>
      </p>
      {(log.taken.length > 0 || waiting > 0) && (
        <p className="text-lead text-ink-2">
          {log.taken.map((t) => `${clock(t.at)} ${celsius(t.celsius)}`).join(", ")}
          {waiting > 0 && " … kept here, not safe yet"}
        </p>
      )}
      {log.state !== "met" && log.state !== "missed" && (
        <div className="mt-2 flex flex-wrap items-center gap-2">
          {probe && (
            <button
              type="button"
              className="min-h-16 rounded-lg border-2 border-cobalt bg-cobalt px-5 text-title font-semibold text-white disabled:opacity-50"
              disabled={!r?.answers || !r.steady}
              onClick={() => r && put(Number(r.value.toFixed(1)), probe.name)}
            >
              {r?.answers ? `Take ${celsius(r.value)} from the probe` : "The probe does not answer"}
            </button>
          )}
          <input
            aria-label={`Temperature of ${log.name}`}
            inputMode="decimal"
            className="field h-16! w-32.5! text-title"
            placeholder="°C"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && typing()}
          />
          <button type="button" className="bench-small" disabled={!typed.trim()} onClick={typing}>
            Write it down
          </button>
        </div>
      )}
      {log.state === "none" && r?.answers && r.value < BEGINS && (
        <p className="mt-1 text-lead text-mustard-ink">
          Begun under {celsius(BEGINS)} the log tells nothing of the way down: it counts as missed, and an owner decides.
        </p>
      )}
      {wrong && <p className="mt-1 text-lead font-semibold text-beet">{wrong}</p>}
    </section>
  );
}

/** What came hot does not go in before its cooling log is begun. */
export function CoolStage({ desk, log }: { desk: Desk; log: Cooling }) {
  return (
    <div>
      <h1 className="font-title figure leading-none font-semibold max-tablet:text-display">{log.name} came hot</h1>
      <p className="mt-1 mb-4 text-title text-ink-2">
        Hot glass and steam burn. Take its temperature before it is weighed in, and again on the way down.
      </p>
      <CoolingLog desk={desk} log={log} />
    </div>
  );
}
