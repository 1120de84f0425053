import { Link } from "react-router";
import { fieldMessage, type Problem } from "../../api/client";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import type { Settings } from "./settings";

type Device = NonNullable<Settings["devices"]>[number];

export const KINDS = [
  ["scale", "scale"],
  ["meter", "pH meter"],
  ["probe", "probe thermometer"],
  ["logger", "cold-room logger"],
  ["printer", "label printer"],
] as const;

/** A fresh id among those that are there. */
function freshId(devices: readonly { id: string }[], kind: string): string {
  for (let n = 1; ; n++) {
    const id = `${kind}-${n}`;
    if (!devices.some((d) => d.id === id)) return id;
  }
}

/** Scales, meters and printers of the shop. */
export function Things({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const devices = s.devices ?? [];
  const put = (i: number, part: Partial<Device>) => set({ devices: devices.map((d, k) => (k === i ? { ...d, ...part } : d)) });
  const e = (name: string) => fieldMessage(problem, name);
  return (
    <section className="sheet col-span-2 p-5" aria-labelledby="things">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 id="things" className="phase text-lead">
          Scales, meters and printers
        </h2>
        <Link to="/devices" className="btn-quiet inline-flex items-center">
          What they say now
        </Link>
      </div>
      <p className="mb-3 text-note text-ink-2">
        The first scale is the bench scale; a finer one takes what is too little for it. Without an address a stand-in takes the place of a
        device: it measures nothing real. Vessels stand under{" "}
        <Link className="text-cobalt underline" to="/allergens">
          allergens
        </Link>
        .
      </p>
      <div className="grid gap-2">
        {devices.map((d, i) => (
          <div key={d.id} className="grid grid-cols-[170px_1fr_1fr_110px_120px_40px] items-end gap-3">
            <SelectField
              label={i === 0 ? "What it is" : ""}
              aria-label={`What ${d.name} is`}
              value={d.kind}
              options={KINDS}
              onValue={(kind) => put(i, { kind, ...(kind === "scale" && d.division_g <= 0 ? { division_g: 1 } : {}) })}
            />
            <TextField
              label={i === 0 ? "Name" : ""}
              aria-label={`Name of device ${i + 1}`}
              value={d.name}
              onChange={(x) => put(i, { name: x.target.value })}
              error={e(`devices[${i}].name`)}
            />
            <TextField
              label={i === 0 ? "Address, with its port" : ""}
              aria-label={`Address of ${d.name}`}
              placeholder="a stand-in"
              value={d.address ?? ""}
              onChange={(x) => put(i, { address: x.target.value.trim() })}
              error={e(`devices[${i}].address`)}
            />
            {d.kind === "scale" ? (
              <>
                <NumberField
                  label={i === 0 ? "Reads to" : ""}
                  aria-label={`${d.name} reads to`}
                  unit={i === 0 ? "g" : undefined}
                  measure="mass"
                  value={d.division_g}
                  onValue={(n) => put(i, { division_g: n ?? 0 })}
                  error={e(`devices[${i}].division_g`)}
                />
                <NumberField
                  label={i === 0 ? "Takes at most" : ""}
                  aria-label={`${d.name} takes at most`}
                  unit={i === 0 ? "g" : undefined}
                  measure="mass"
                  value={d.capacity_g}
                  onValue={(n) => put(i, { capacity_g: n ?? 0 })}
                  error={e(`devices[${i}].capacity_g`)}
                />
              </>
            ) : (
              <span className="col-span-2" />
            )}
            <button
              type="button"
              className="btn-quiet text-beet!"
              aria-label={`Take ${d.name} off the list`}
              onClick={() => set({ devices: devices.filter((_, k) => k !== i) })}
            >
              ✕
            </button>
          </div>
        ))}
      </div>
      {e("devices") && <p className="mt-2 text-note font-semibold text-beet">{e("devices")}</p>}
      <button
        type="button"
        className="btn-quiet mt-1"
        onClick={() =>
          set({
            devices: [
              ...devices,
              { id: freshId(devices, "scale"), kind: "scale", name: `Scale ${devices.length + 1}`, division_g: 1, capacity_g: 6000 },
            ],
          })
        }
      >
        Add a device
      </button>
    </section>
  );
}
