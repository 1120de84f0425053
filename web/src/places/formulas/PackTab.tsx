import { Link } from "react-router";
import { fieldMessage } from "../../api/client";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { say } from "../../tongue/words";
import { Fill, JarField } from "./Fill";
import { Steps, Toppings } from "./Making";
import { PackItems } from "./PackItems";
import { StyleWord } from "./StyleWord";
import type { DraftState } from "./useDraft";

type NumberKey =
  | "fill_g"
  | "overfill_percent"
  | "loss_percent"
  | "water_driven_off_g"
  | "minutes_per_batch"
  | "minutes_per_jar"
  | "minutes_per_load"
  | "oven_minutes"
  | "overhead_per_jar"
  | "reject_percent"
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
  return (
    <div className="sheet p-5">
      <h2 className="phase mb-3 text-lead">Jar</h2>
      <StyleWord draft={draft} locked={locked} />
      <div className="grid grid-cols-4 gap-4 max-desk:grid-cols-3">
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
      <h2 className="phase mt-6 mb-2 text-lead">Pack</h2>
      <PackItems draft={draft} locked={locked} />
      <h2 className="phase mt-6 mb-1 text-lead">Hands and kitchen</h2>
      <p className="mb-3 text-note text-ink-2">
        Peeling, roasting and the like come by the kilo from the kitchen steps of the lines.{" "}
        <Link to={`/costs/${version.formula}/${version.version}`} className="font-semibold text-cobalt hover:underline">
          What a jar costs
        </Link>
      </p>
      <div className="grid grid-cols-5 gap-4 max-desk:grid-cols-3">
        {number("costing_jars", "Jars a batch", "jars")}
        {number("minutes_per_batch", "Set up and clean", "min")}
        {number("minutes_per_load", "Each load", "min")}
        {number("minutes_per_jar", "Fill, cap, label", "min a jar")}
        {number("labour_per_hour", say("labour"), `${shop.currency} an hour`)}
        {number("overhead_per_batch", "Kitchen", `${shop.currency} a batch`)}
        {number("overhead_per_jar", "Overhead", `${shop.currency} a jar`)}
        {number("oven_minutes", "Oven", "min a load")}
        {number("reject_percent", "Jars rejected", "%")}
      </div>
      <Toppings draft={draft} locked={locked} />
      <Steps draft={draft} locked={locked} />
    </div>
  );
}
