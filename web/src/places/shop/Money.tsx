import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { Check, TextField } from "../../parts/form";
import { Segmented } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { say } from "../../tongue/words";
import type { Settings } from "./settings";

type Pricing = Schemas["Pricing"];

/** Price points that are offered, as step and ending. */
const POINTS: readonly (readonly [string, string, number, number])[] = [
  ["0 0", "as it comes", 0, 0],
  ["0.05 0", "in steps of 0.05", 0.05, 0],
  ["0.1 0", "in steps of 0.10", 0.1, 0],
  ["0.25 0", "in steps of 0.25", 0.25, 0],
  ["0.5 0", "in halves", 0.5, 0],
  ["1 0", "whole", 1, 0],
  ["1 0.95", "ending in .95", 1, 0.95],
  ["1 0.99", "ending in .99", 1, 0.99],
  ["0.5 0.45", "ending in .45 or .95", 0.5, 0.45],
];

const HANDS: readonly (readonly ["market" | "wholesale" | "trade" | "distributor" | "shop", string, string])[] = [
  ["market", "You, at a stall", "on what a jar costs"],
  ["wholesale", "You, to a shop", "on what a jar costs"],
  ["trade", "You, to a distributor", "on what a jar costs"],
  ["distributor", "The distributor", "on what it pays you"],
  ["shop", "The shop", "on what it pays"],
];

/** What costs and prices rest on: rates, the rule of prices, and what each pair of hands adds. */
export function Money({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const e = (f: string) => fieldMessage(problem, f);
  const p = s.pricing;
  const money = (key: "kitchen_per_hour" | "oven_per_hour", label: string, hint: string) => (
    <NumberField
      label={label}
      unit={`${s.currency} an hour`}
      hint={hint}
      value={s[key] ?? 0}
      onValue={(n) => set({ [key]: n ?? 0 })}
      error={e(key)}
    />
  );
  return (
    <section className="sheet col-span-2 p-5" id="prices" aria-labelledby="money">
      <h2 id="money" className="phase mb-3 text-lead">
        Costs and prices
      </h2>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)] gap-8 max-phone:grid-cols-1">
        <div className="grid grid-cols-2 content-start gap-4">
          <NumberField
            label={say("labour")}
            unit={`${s.currency} an hour`}
            value={s.labour_per_hour}
            onValue={(n) => set({ labour_per_hour: n ?? 0 })}
            error={e("labour_per_hour")}
          />
          <NumberField
            label="A shift of work"
            unit="min"
            hint="a longer batch goes on another day"
            value={s.day_minutes || 480}
            onValue={(n) => set({ day_minutes: n ?? 0 })}
            error={e("day_minutes")}
          />
          {money("kitchen_per_hour", "Hire of the kitchen", "as long as hands work in it")}
          {money("oven_per_hour", "The oven", "for the oven minutes of a sheet")}
          <SelectField
            label="Current price"
            value={s.price_rule}
            options={[
              ["newest", "the newest offer"],
              ["cheapest", "the cheapest valid offer"],
              ["lots", "what the lots on hand cost"],
            ]}
            onValue={(chosen) => set({ price_rule: chosen })}
            error={e("price_rule")}
          />
          <NumberField
            label="A price is old after"
            unit="days"
            value={s.stale_days}
            onValue={(n) => set({ stale_days: n ?? 0 })}
            error={e("stale_days")}
          />
          <div className="col-span-2">
            <Check
              label="The tax on what the shop buys is not got back: it costs"
              checked={!!s.tax_kept}
              onChange={(tax_kept) => set({ tax_kept })}
            />
          </div>
        </div>
        {p && <Adds p={p} set={(c) => set({ pricing: { ...p, ...c } })} currency={s.currency} e={(f) => e(`pricing.${f}`)} />}
      </div>
    </section>
  );
}

function Adds({ p, set, currency, e }: { p: Pricing; set: (c: Partial<Pricing>) => void; currency: string; e: (f: string) => string }) {
  const point = `${p.step} ${p.ending}`;
  const options = POINTS.map(([v, text]) => [v, text] as const);
  return (
    <div>
      <table className="w-full text-body">
        <caption className="pb-1 text-left text-note text-ink-2">
          What each adds. A margin is a share of the price, a mark-up a share of the cost.
        </caption>
        <tbody>
          {HANDS.map(([key, name, on]) => (
            <tr key={key} className="border-b border-rule-soft align-top">
              <th scope="row" className="py-2 pr-2 text-left font-medium">
                {name}
                <span className="block text-note font-normal text-ink-3">{on}</span>
              </th>
              <td className="py-3 pr-3">
                <Segmented
                  label={`${name}: margin or mark-up`}
                  value={p[key].way as "margin" | "markup"}
                  onChange={(way) => set({ [key]: { ...p[key], way } })}
                  options={
                    [
                      ["margin", "margin"],
                      ["markup", "mark-up"],
                    ] as const
                  }
                />
              </td>
              <td className="w-24 py-1">
                <NumberField
                  label=""
                  aria-label={`${name}, percent`}
                  value={p[key].percent}
                  error={e(`${key}.percent`)}
                  onValue={(n) => set({ [key]: { ...p[key], percent: n ?? 0 } })}
                />
              </td>
              <td className="w-6 py-3.5 pl-1 text-ink-2">%</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-3 grid grid-cols-[110px_90px_minmax(0,1fr)_minmax(0,1fr)] gap-3">
        <TextField label="Tax, its name" value={p.tax_name} error={e("tax_name")} onChange={(x) => set({ tax_name: x.target.value })} />
        <NumberField
          label="on a jar"
          unit="%"
          value={p.tax_percent}
          error={e("tax_percent")}
          onValue={(n) => set({ tax_percent: n ?? 0 })}
        />
        <SelectField
          label="Prices end"
          value={point}
          options={options.some(([v]) => v === point) ? options : [...options, [point, `${p.step} and ${p.ending}`] as const]}
          error={e("ending") || e("step")}
          onValue={(chosen) => {
            const [, , step, ending] = POINTS.find(([v]) => v === chosen) ?? POINTS[0] ?? ["", "", 0, 0];
            set({ step, ending });
          }}
        />
        <NumberField
          label="A month costs"
          unit={currency}
          hint="whatever is made"
          value={p.fixed_month}
          error={e("fixed_month")}
          onValue={(n) => set({ fixed_month: n ?? 0 })}
        />
      </div>
    </div>
  );
}
