import { useState } from "react";
import { Link } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { askDevice, useDevices, useLive } from "../../api/queries/devices";
import { Head } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { decimals } from "../batches/bench/pour";
import { StandInPanel } from "../batches/bench/StandInPanel";
import { KINDS } from "../shop/Things";

type Device = Schemas["DeviceView"];

/** What each device says now, and the hands of the stand-ins. */
export default function Devices() {
  const devices = useDevices();
  if (devices.isPending) return <Loading what="the devices" />;
  if (devices.isError) return <Failed message={problemOf(devices.error).title} again={() => devices.refetch()} />;
  const stands = devices.data.some((d) => d.stand_in);
  return (
    <div className="px-6 pt-4 pb-8">
      <Head title="Devices" sub="what they say now">
        <Link to="/shop" className="btn-line inline-flex items-center">
          Names and addresses
        </Link>
      </Head>
      {stands && (
        <p className="mt-2 max-w-225 text-body text-ink-2">
          A stand-in takes the place of a device that has no address. It measures nothing real
          {devices.data.some((d) => d.stand_in && d.counts)
            ? "; in this made-up shop its readings are taken all the same"
            : " and nothing of it is written down"}
          . Yours speaks the same lines: give it the address of the device.
        </p>
      )}
      <div className="mt-4 grid grid-cols-2 items-stretch gap-5 max-tablet:grid-cols-1">
        {devices.data.map((d) => (
          <DeviceSheet key={d.id} d={d} />
        ))}
      </div>
    </div>
  );
}

function DeviceSheet({ d }: { d: Device }) {
  const { num, celsius } = useFormats();
  const r = useLive(d.id);
  const [said, setSaid] = useState("");
  const play = async (command: string) => {
    try {
      const answer = await askDevice(d.id, command);
      setSaid(answer.answer === "done" ? "" : answer.answer);
    } catch (e) {
      setSaid(problemOf(e).title);
    }
  };
  const silent = r !== null && !r.answers;
  const word = r === null ? "…" : silent ? "does not answer" : r.fault || (r.over ? "too much on it" : r.steady ? "steady" : "moving");
  const tone = silent || r?.fault || r?.over ? "text-beet" : r?.steady ? "text-leaf" : "text-mustard-ink";
  const value =
    !r || silent || r.fault || r.over
      ? "–"
      : d.kind === "scale"
        ? num(r.value, decimals(d.division_g))
        : d.kind === "meter"
          ? num(r.value, 2)
          : d.kind === "printer"
            ? num(r.value)
            : num(r.value, 1);
  const unit = { scale: "g", meter: "pH", probe: "°C", logger: "°C", printer: "labels left" }[d.kind];
  return (
    <section className="sheet flex flex-col" aria-label={d.name}>
      <div className="flex items-baseline gap-3 border-b border-rule-soft px-5 pt-3 pb-2">
        <h2 className="font-title text-title font-semibold">{d.name}</h2>
        <span className="text-note text-ink-2">
          {KINDS.find(([k]) => k === d.kind)?.[1]}, {d.stand_in ? "a stand-in" : d.address}
        </span>
        <span role="status" className={`ml-auto text-body font-semibold ${tone}`}>
          {word}
        </span>
      </div>
      <p className="px-5 pt-2 figure leading-none font-semibold tracking-tight" data-value={r?.value}>
        {value}
        <small className="ml-2 text-title font-medium tracking-normal text-ink-3">{unit}</small>
        {d.kind === "meter" && r?.mv != null && !r.fault && (
          <small className="ml-4 text-lead font-normal tracking-normal text-ink-2">
            {num(r.mv, 1)} mV{r.celsius != null && `, ${celsius(r.celsius)}`}
          </small>
        )}
      </p>
      <p className="px-5 pt-1 pb-3 text-note text-ink-2">
        {d.kind === "scale" &&
          `reads to ${num(d.division_g, decimals(d.division_g))} g, weighs well from ${num(d.division_g * 20, 1)} g, takes ${num(d.capacity_g)} g`}
        {said}
      </p>
      {d.stand_in && d.kind === "scale" && <StandInPanel device={d} />}
      {d.stand_in && d.kind !== "scale" && (
        <p className="mt-auto flex flex-wrap gap-2 border-t-2 border-dashed border-rule-strong bg-glaze px-4 py-2">
          {HANDS[d.kind]?.map(([text, command]) => (
            <button key={command} type="button" className="btn-line" onClick={() => play(command)}>
              {text}
            </button>
          ))}
        </p>
      )}
    </section>
  );
}

/** What the hand does with a stand-in, by its kind. */
const HANDS: Record<string, [string, string][]> = {
  meter: [
    ["Into buffer 4.01", "sim dip 4.01 22"],
    ["Into buffer 7.00", "sim dip 7.00 22"],
    ["Into a jar of 4.02", "sim dip 4.02 22"],
    ["Out", "sim lift"],
    ["Drift away", "sim drift -0.5"],
    ["Steady again", "sim drift 0"],
  ],
  probe: [
    ["Into something hot", "sim warm 82"],
    ["Room", "sim warm 21"],
    ["Cold room", "sim warm 4"],
    ["Unplug", "sim unplug"],
    ["Plug in", "sim plug"],
  ],
  logger: [
    ["Door open", "sim warm 9"],
    ["Cold again", "sim warm 4"],
    ["Unplug", "sim unplug"],
    ["Plug in", "sim plug"],
  ],
  printer: [
    ["A new roll", "sim roll 500"],
    ["Nearly out", "sim roll 3"],
    ["Jam", "sim jam"],
    ["Clear it", "sim clear"],
    ["How many printed?", "count"],
  ],
};
