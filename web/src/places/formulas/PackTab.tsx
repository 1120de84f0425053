import { fieldMessage } from "../../api/client";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import { Fill, JarField } from "./Fill";
import { Steps, Toppings } from "./Making";
import { StyleWord } from "./StyleWord";
import type { DraftState, Version } from "./useDraft";

type NumberKey =
  | "fill_g"
  | "overfill_percent"
  | "loss_percent"
  | "water_driven_off_g"
  | "minutes_per_batch"
  | "minutes_per_jar"
  | "labour_per_hour"
  | "overhead_per_batch"
  | "costing_jars"
  | "density_g_ml";

const PRODUCT = ["pourable dressing", "spoonable dressing", "dip", "pesto", "spread", "marinade"].map((s) => [s, s] as const);
const EMULSION = [
  ["shaken", "shaken, separates"],
  ["bound", "bound by mustard, fruit or legume"],
  ["yolk-bound", "bound by yolk"],
  ["purée", "purée"],
] as const;

/** Jar, losses, packaging, hands and kitchen: what a jar costs besides its ingredients. */
export function PackTab({ draft, locked }: { draft: DraftState; locked: boolean }) {
  const { version, problem, edit } = draft;
  const { shop, day } = useFormats();
  const number = (key: NumberKey, label: string, unit: string, hint?: string) => (
    <NumberField
      label={label}
      unit={unit}
      hint={hint}
      value={version[key] ?? 0}
      disabled={locked}
      error={fieldMessage(problem, key)}
      onValue={(n) => edit(label, (v) => ({ ...v, [key]: n ?? 0 }), key)}
    />
  );
  const setItem = (i: number, change: Partial<Version["packaging"][number]>) =>
    edit(
      "packaging",
      (v) => ({ ...v, packaging: v.packaging.map((p, j) => (i === j ? { ...p, ...change } : p)) }),
      `packaging ${i} ${Object.keys(change)}`,
    );
  return (
    <div className="sheet p-5">
      <h2 className="phase mb-3 text-[15px]">Jar</h2>
      <StyleWord draft={draft} locked={locked} />
      <div className="grid grid-cols-4 gap-4">
        <Fill draft={draft} locked={locked} />
        {number("overfill_percent", "Overfill", "%")}
        {number("loss_percent", "Process loss", "%")}
        {number("water_driven_off_g", "Water driven off", "g", "while this batch is made")}
        <SelectField
          label="What it is"
          value={version.product_style ?? ""}
          disabled={locked}
          options={[["", "not said"], ...PRODUCT]}
          onValue={(chosen) => edit("style", (v) => ({ ...v, product_style: chosen, style_by_lines: false }))}
        />
        <SelectField
          label="Held together"
          value={version.emulsion_style ?? ""}
          disabled={locked}
          options={[["", "not said"], ...EMULSION]}
          onValue={(chosen) => edit("style", (v) => ({ ...v, emulsion_style: chosen, style_by_lines: false }))}
        />
        {number(
          "density_g_ml",
          "Finished density",
          "g/mL",
          version.density_by
            ? `measured by ${version.density_by}${version.density_on ? `, ${day(version.density_on)}` : ""}`
            : "weigh a known volume once",
        )}
        <JarField draft={draft} locked={locked} />
      </div>
      <h2 className="phase mt-6 mb-2 text-[15px]">Pack</h2>
      <table className="ledger w-full max-w-[560px]">
        <thead>
          <tr>
            <th>Item</th>
            <th className="num">Price, {shop.currency}</th>
            <th className="num">Spoilt, %</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {version.packaging.map((p, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: an item has no identity but its place
            <tr key={i} className="align-top">
              <td className="py-1 pr-3">
                <TextField
                  label=""
                  aria-label={`Item ${i + 1}`}
                  value={p.name}
                  disabled={locked}
                  error={fieldMessage(problem, `packaging[${i}].name`)}
                  onChange={(e) => setItem(i, { name: e.target.value })}
                />
              </td>
              <td className="w-32 py-1 pr-3">
                <NumberField
                  label=""
                  aria-label={`Price of ${p.name}`}
                  value={p.price}
                  disabled={locked}
                  error={fieldMessage(problem, `packaging[${i}].price`)}
                  onValue={(n) => setItem(i, { price: n ?? 0 })}
                />
              </td>
              <td className="w-28 py-1">
                <NumberField
                  label=""
                  aria-label={`Spoilt ${p.name}`}
                  value={p.loss_percent}
                  disabled={locked}
                  error={fieldMessage(problem, `packaging[${i}].loss_percent`)}
                  onValue={(n) => setItem(i, { loss_percent: n ?? 0 })}
                />
              </td>
              <td className="w-20 py-1">
                {!locked && (
                  <button
                    type="button"
                    className="btn-quiet"
                    onClick={() => edit("packaging", (v) => ({ ...v, packaging: v.packaging.filter((_, j) => j !== i) }))}
                  >
                    Out
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {!locked && (
        <button
          type="button"
          className="btn-quiet mt-1"
          onClick={() => edit("packaging", (v) => ({ ...v, packaging: [...v.packaging, { name: "item", price: 0, loss_percent: 0 }] }))}
        >
          Add an item
        </button>
      )}
      <h2 className="phase mt-6 mb-3 text-[15px]">Hands and kitchen</h2>
      <div className="grid grid-cols-5 gap-4">
        {number("costing_jars", "Jars a batch", "jars")}
        {number("minutes_per_batch", "Set up and clean", "min")}
        {number("minutes_per_jar", "Fill, cap, label", "min a jar")}
        {number("labour_per_hour", say("labour"), `${shop.currency} an hour`)}
        {number("overhead_per_batch", "Kitchen", `${shop.currency} a batch`)}
      </div>
      <Toppings draft={draft} locked={locked} />
      <Steps draft={draft} locked={locked} />
    </div>
  );
}
