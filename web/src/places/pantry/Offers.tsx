import { useState } from "react";
import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { DateField } from "../../parts/date";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { today } from "../../tongue/clock";
import { fixed } from "../../tongue/quantity";
import { PriceLine } from "./PriceLine";

type View = Schemas["IngredientView"];
type Offer = Schemas["PriceOffer"];

const STATES = {
  now: ["counts now", "bg-cobalt text-white"],
  beside: ["", ""],
  waits: ["waits for its day", "border border-mustard text-mustard-ink"],
  ended: ["ended", "text-ink-3"],
} as const;

/** What is paid for it: each supplier's packs as they are sold, what a kilo comes to, and from when it holds. */
export function Offers({
  view,
  offers,
  problem,
  onSave,
}: {
  view: View;
  offers: Offer[];
  problem: Problem | null;
  onSave: (o: Offer[]) => void;
}) {
  const { day, money } = useFormats();
  const [adding, setAdding] = useState(false);
  const pack = view.role === "packaging";
  const each = (perGram: number) => (pack ? money(perGram, 4) : money(perGram * 1000));
  return (
    <div className="mt-3">
      <PriceLine told={view.offers_told} each={each} pack={pack} />
      <ul className="border-t border-rule">
        {offers.map((o, i) => {
          const told = view.offers_told.find((t) => t.offer.id === o.id && o.id) ?? view.offers_told[i];
          const [state, look] = STATES[told?.state ?? "beside"];
          return (
            <li
              key={o.id ?? i}
              className="grid grid-cols-[minmax(0,1fr)_92px_74px_40px] items-center gap-x-3 border-b border-rule-soft py-1.5"
            >
              <span className="min-w-0">
                <span className="block truncate text-body">
                  <b className="font-semibold">{o.supplier}</b>
                  {state && <span className={`ml-2 rounded-sm px-1.5 py-px text-note ${look}`}>{state}</span>}
                </span>
                <span className="block text-note text-ink-2">
                  from {day(o.date, true)}
                  {o.valid_until && ` until ${day(o.valid_until, true)}`}
                  {(o.delivery ?? 0) > 0 && `, ${fixed(o.delivery ?? 0, 2)} delivery a pack`}
                  {(o.tax_percent ?? 0) > 0 && `, ${fixed(o.tax_percent ?? 0, 0)} % tax ${o.with_tax ? "in it" : "on it"}`}
                </span>
              </span>
              <span className="text-right text-note leading-tight text-ink-2">
                <b className="block text-body text-ink">{fixed(o.price, 2)}</b>
                for {packWords(o)}
              </span>
              <span className="text-right text-body font-semibold">
                {told?.per_gram == null ? (
                  <span className="text-note font-normal text-mustard-ink">no grams yet</span>
                ) : (
                  each(told.per_gram)
                )}
              </span>
              <button
                type="button"
                className="btn-quiet px-1! text-note"
                aria-label={`Out: the price of ${o.supplier}, ${day(o.date, true)}`}
                onClick={() => {
                  onSave(offers.filter((_, j) => j !== i));
                  toast(`The price of ${o.supplier} is out.`, { action: { label: "Put it back", onClick: () => onSave(offers) } });
                }}
              >
                Out
              </button>
            </li>
          );
        })}
      </ul>
      {adding ? (
        <NewOffer pack={pack} offers={offers} problem={problem} onLeave={() => setAdding(false)} onAdd={(o) => onSave([...offers, o])} />
      ) : (
        <button type="button" className="btn-quiet mt-1" onClick={() => setAdding(true)}>
          A new price
        </button>
      )}
    </div>
  );
}

/** A pack as it is sold. */
export function packWords(o: Pick<Offer, "pack_amount" | "pack_unit">): string {
  const n = o.pack_amount;
  const plain = (x: number) => fixed(x, Number.isInteger(x) ? 0 : 2);
  if (o.pack_unit === "piece") return n === 1 ? "a piece" : `${plain(n)} pieces`;
  if (o.pack_unit === "ml") return n >= 1000 ? `${plain(n / 1000)} L` : `${plain(n)} mL`;
  return n >= 1000 ? `${plain(n / 1000)} kg` : `${plain(n)} g`;
}

function NewOffer({
  pack,
  offers,
  problem,
  onLeave,
  onAdd,
}: {
  pack: boolean;
  offers: Offer[];
  problem: Problem | null;
  onLeave: () => void;
  onAdd: (o: Offer) => void;
}) {
  const { shop } = useFormats();
  const blank = {
    supplier: offers[0]?.supplier ?? "",
    amount: null as number | null,
    unit: pack ? "piece" : "g",
    price: null as number | null,
    date: today(),
    until: "",
    delivery: null as number | null,
    tax: null as number | null,
    held: "on",
  };
  const [fresh, setFresh] = useState(blank);
  const [mine, setMine] = useState<Record<string, string>>({});
  const set = (c: Partial<typeof blank>) => setFresh({ ...fresh, ...c });
  const late = (f: string) => fieldMessage(problem, `offers[${offers.length - 1}].${f}`);
  const add = () => {
    const { amount, price } = fresh;
    const errors: Record<string, string> = {};
    if (!fresh.supplier.trim()) errors.supplier = "who sells it?";
    if (!amount) errors.amount = "how much is in it?";
    if (!price) errors.price = "what does it cost?";
    if (fresh.until && fresh.until < fresh.date) errors.until = "it ends before it starts";
    setMine(errors);
    if (!amount || !price || Object.keys(errors).length > 0) return;
    onAdd({
      supplier: fresh.supplier.trim(),
      pack_amount: amount,
      pack_unit: fresh.unit,
      price,
      date: fresh.date,
      valid_until: fresh.until || undefined,
      delivery: fresh.delivery || undefined,
      tax_percent: fresh.tax || undefined,
      with_tax: fresh.tax && fresh.held === "in" ? true : undefined,
    });
    setFresh({ ...blank, supplier: fresh.supplier });
  };
  return (
    <form
      className="mt-2 grid grid-cols-4 items-start gap-x-3 gap-y-2 bg-paper-foot p-3"
      onSubmit={(e) => {
        e.preventDefault();
        add();
      }}
    >
      <TextField
        className="col-span-2"
        label="Supplier"
        value={fresh.supplier}
        error={mine.supplier || late("supplier")}
        onChange={(e) => set({ supplier: e.target.value })}
      />
      <DateField label="From" aria-label="Date of the price" value={fresh.date} error={late("date")} onValue={(date) => set({ date })} />
      <DateField
        label="Until, if said"
        aria-label="Until"
        value={fresh.until}
        error={mine.until || late("valid_until")}
        onValue={(until) => set({ until })}
      />
      <NumberField
        label="Pack"
        aria-label="Pack amount"
        measure={fresh.unit === "g" ? "mass" : fresh.unit === "ml" ? "volume" : "plain"}
        allowEmpty
        placeholder={pack ? "240" : "1000"}
        value={fresh.amount}
        error={mine.amount || late("pack_amount")}
        onValue={(amount) => set({ amount })}
      />
      <SelectField
        label="in"
        aria-label="Pack unit"
        value={fresh.unit}
        disabled={pack}
        options={[
          ["g", "g"],
          ["ml", "mL"],
          ["piece", "pieces"],
        ]}
        onValue={(unit) => set({ unit })}
      />
      <NumberField
        label="Price"
        unit={shop.currency}
        aria-label="Price"
        allowEmpty
        placeholder="0.00"
        value={fresh.price}
        error={mine.price || late("price")}
        onValue={(price) => set({ price })}
      />
      <NumberField
        label="Delivery a pack"
        unit={shop.currency}
        allowEmpty
        value={fresh.delivery}
        error={late("delivery")}
        onValue={(delivery) => set({ delivery })}
      />
      <NumberField label="Tax" unit="%" allowEmpty value={fresh.tax} error={late("tax_percent")} onValue={(tax) => set({ tax })} />
      <SelectField
        label="which is"
        value={fresh.held}
        options={[
          ["on", "on top of it"],
          ["in", "in it already"],
        ]}
        onValue={(held) => set({ held })}
      />
      <div className="col-span-2 flex items-end justify-end gap-2 pt-5.5">
        <button type="button" className="btn-quiet" onClick={onLeave}>
          Done
        </button>
        <button type="submit" className="btn">
          Add
        </button>
      </div>
    </form>
  );
}
