import { useMemo } from "react";
import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { useShopQuery } from "../../api/queries/shop";
import { AreaField, Check, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { say } from "../../tongue/words";

export type Settings = Schemas["Settings"];

/** A day as it is written in a locale, to choose by. */
const written = (locale: string) =>
  new Intl.DateTimeFormat(locale, { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" }).format(
    new Date("2026-11-25T00:00:00Z"),
  );

/** The zones that may be chosen, as cities. */
const zones = (own: string): (readonly [string, string])[] =>
  [...new Set([own, ...Intl.supportedValuesOf("timeZone")])]
    .filter(Boolean)
    .toSorted()
    .map((z) => [z, z.replaceAll("_", " ")] as const);

/** The currencies that may be chosen, by their code, with their names. */
const currencies = (own: string, locale: string): (readonly [string, string])[] => {
  const names = new Intl.DisplayNames(locale, { type: "currency" });
  return [...new Set([own, ...Intl.supportedValuesOf("currency")])]
    .filter(Boolean)
    .toSorted()
    .map((c) => [c, `${c}, ${names.of(c)}`] as const);
};

/** The few things a shop must say of itself. */
export function BasicFields({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const e = (f: string) => fieldMessage(problem, f);
  const laws = useShopQuery().data?.laws ?? [];
  return (
    <div className="grid grid-cols-2 gap-4">
      <TextField label="Name of the shop" value={s.name} onChange={(x) => set({ name: x.target.value })} error={e("name")} />
      <SelectField
        label="Label law at home"
        value={s.regime}
        options={laws.map((l) => [l.regime, l.title] as const)}
        onValue={(chosen) => {
          const law = laws.find((l) => l.regime === chosen);
          if (law) set({ regime: law.regime, locale: law.locale, currency: law.currency, time_zone: law.time_zone, beside: law.beside });
        }}
        error={e("regime")}
      />
      <AreaField
        className="col-span-2"
        label="Address, as it stands on the label"
        rows={2}
        value={s.address}
        onChange={(x) => set({ address: x.target.value })}
        error={e("address")}
      />
      <SelectField
        label="Currency"
        value={s.currency}
        options={useMemo(() => currencies(s.currency, s.locale), [s.currency, s.locale])}
        onValue={(chosen) => set({ currency: chosen })}
        error={e("currency")}
      />
      <SelectField
        label="Dates and numbers"
        value={s.locale}
        options={laws.map((l) => [l.locale, written(l.locale)] as const)}
        onValue={(chosen) => set({ locale: chosen })}
        error={e("locale")}
      />
      <SelectField
        className="col-span-2"
        label="Where the shop's days begin"
        value={s.time_zone ?? ""}
        options={useMemo(() => zones(s.time_zone ?? ""), [s.time_zone])}
        onValue={(chosen) => set({ time_zone: chosen })}
        error={e("time_zone")}
      />
      <div className="col-span-2">
        <Check label={say("units_beside")} checked={!!s.beside} onChange={(beside) => set({ beside })} />
      </div>
    </div>
  );
}

export function WorkFields({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const e = (f: string) => fieldMessage(problem, f);
  return (
    <div className="grid grid-cols-3 gap-4">
      <SelectField
        label="A tablespoon holds"
        value={s.tablespoon || "US"}
        options={[
          ["US", "14.79 mL"],
          ["AU", "20 mL, the Australian one"],
        ]}
        onValue={(chosen) => set({ tablespoon: chosen })}
        error={e("tablespoon")}
      />
      <SelectField
        label="A cup holds"
        value={s.cup || "US"}
        options={[
          ["US", "236.6 mL"],
          ["metric", "250 mL"],
        ]}
        onValue={(chosen) => set({ cup: chosen })}
        error={e("cup")}
      />
      <div />
      <NumberField
        label="Bench scale reads to"
        unit="g"
        value={s.scale_division_g}
        onValue={(n) => set({ scale_division_g: n ?? 0, devices: withDivision(s.devices ?? [], n ?? 0) })}
        error={e("scale_division_g") || e("devices")}
      />
      <NumberField
        label="Samples kept of a batch"
        unit="g"
        value={s.sample_g}
        onValue={(n) => set({ sample_g: n ?? 0 })}
        error={e("sample_g")}
      />
      <NumberField label="Left in the bowl" unit="g" value={s.residue_g} onValue={(n) => set({ residue_g: n ?? 0 })} />
      <NumberField
        label="After opening at most"
        unit="days"
        value={s.opened_days}
        onValue={(n) => set({ opened_days: n ?? 0 })}
        error={e("opened_days")}
      />
      <NumberField
        label="Asks for the PIN after"
        unit="min of rest"
        value={s.idle_minutes ?? 15}
        onValue={(n) => set({ idle_minutes: n ?? 0 })}
        error={e("idle_minutes")}
      />
      <div className="col-span-3">
        <Check
          label="Early release: chilled products without pieces over 5 mm may go on the first reading when it meets the target; the equilibrium reading stays due"
          checked={s.early_release}
          onChange={(early_release) => set({ early_release })}
        />
        <Check
          label="A second person releases: whoever planned, weighed or filled a batch does not release it"
          checked={!!s.second_person}
          onChange={(second_person) => set({ second_person })}
        />
      </div>
    </div>
  );
}

/** The devices with another division of the bench scale, which is the first. */
function withDivision(devices: NonNullable<Settings["devices"]>, division: number) {
  const first = devices.findIndex((d) => d.kind === "scale");
  return devices.map((d, i) => (i === first ? { ...d, division_g: division } : d));
}
