import { useRef, useState } from "react";
import { toast } from "sonner";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { DateField } from "../../parts/date";
import { AreaField, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";
import { fixed } from "../../tongue/quantity";

type Ingredient = Schemas["Ingredient"];
type Offer = Schemas["PriceOffer"];

export function Offers({ draft, problem, onSave }: { draft: Ingredient; problem: Problem | null; onSave: (o: Offer[]) => void }) {
  const { shop, day, num } = useFormats();
  const blank = { supplier: "", amount: null as number | null, unit: "g", price: null as number | null, date: today() };
  const [fresh, setFresh] = useState(blank);
  const [mine, setMine] = useState<Record<string, string>>({});
  const add = () => {
    const { amount, price } = fresh;
    const errors: Record<string, string> = {};
    if (!fresh.supplier.trim()) errors.supplier = "who sells it?";
    if (amount === null) errors.amount = "how much is in it?";
    if (price === null) errors.price = "what does it cost?";
    setMine(errors);
    if (amount === null || price === null || Object.keys(errors).length > 0) return;
    onSave([...draft.offers, { supplier: fresh.supplier.trim(), pack_amount: amount, pack_unit: fresh.unit, price, date: fresh.date }]);
    setFresh(blank);
  };
  const at = draft.offers.length - 1;
  const late = (f: string) => fieldMessage(problem, `offers[${at}].${f}`);
  return (
    <form
      className="mt-3"
      onSubmit={(e) => {
        e.preventDefault();
        add();
      }}
    >
      <div className="grid grid-cols-[minmax(0,1fr)_58px_62px_62px_140px_36px] gap-x-2 text-[12px] text-ink-3">
        <span>Supplier</span>
        <span>Pack</span>
        <span />
        <span>Price, {shop.currency}</span>
        <span>Date</span>
        <span />
      </div>
      {draft.offers.map((o, i) => (
        <div
          key={o.id ?? i}
          className="grid min-h-[34px] grid-cols-[minmax(0,1fr)_58px_62px_62px_140px_36px] items-center gap-x-2 border-b border-rule-soft"
        >
          <span className="truncate">{o.supplier}</span>
          <span className="text-right">{num(o.pack_amount, Number.isInteger(o.pack_amount) ? 0 : 2)}</span>
          <span className="text-ink-2">{o.pack_unit === "ml" ? "mL" : o.pack_unit}</span>
          <span className="text-right font-semibold">{fixed(o.price, 2)}</span>
          <span className="whitespace-nowrap">{day(o.date, true)}</span>
          <button
            type="button"
            className="btn-quiet px-1! text-[13px]"
            aria-label={`Out: the price of ${o.supplier}, ${day(o.date, true)}`}
            onClick={() => {
              const before = draft.offers;
              onSave(before.filter((_, j) => j !== i));
              toast(`The price of ${o.supplier} is out.`, { action: { label: "Put it back", onClick: () => onSave(before) } });
            }}
          >
            Out
          </button>
        </div>
      ))}
      <div className="mt-2 grid grid-cols-[minmax(0,1fr)_58px_62px_62px_140px_36px] items-start gap-x-2">
        <TextField
          label=""
          aria-label="Supplier"
          placeholder="From"
          value={fresh.supplier}
          error={mine.supplier || late("supplier")}
          onChange={(e) => setFresh({ ...fresh, supplier: e.target.value })}
        />
        <NumberField
          label=""
          aria-label="Pack amount"
          measure={fresh.unit === "g" ? "mass" : fresh.unit === "ml" ? "volume" : "plain"}
          allowEmpty
          placeholder="1000"
          value={fresh.amount}
          error={mine.amount || late("pack_amount")}
          onValue={(amount) => setFresh({ ...fresh, amount })}
        />
        <SelectField
          label=""
          aria-label="Pack unit"
          value={fresh.unit}
          options={[
            ["g", "g"],
            ["ml", "mL"],
            ["piece", "piece"],
          ]}
          onValue={(chosen) => setFresh({ ...fresh, unit: chosen })}
        />
        <NumberField
          label=""
          aria-label="Price"
          allowEmpty
          placeholder="0.00"
          value={fresh.price}
          error={mine.price || late("price")}
          onValue={(price) => setFresh({ ...fresh, price })}
        />
        <DateField
          label=""
          aria-label="Date of the price"
          value={fresh.date}
          error={late("date")}
          onValue={(day) => setFresh({ ...fresh, date: day })}
        />
        <button type="submit" className="btn-quiet mt-[3px] px-1!">
          Add
        </button>
      </div>
    </form>
  );
}

/** The list as the supplier prints it, read while it is typed. */
export function SupplierList({
  label,
  value,
  error,
  onSave,
}: {
  label: string;
  value: string;
  error: string;
  onSave: (s: string) => void;
}) {
  const [text, setText] = useState(value);
  const [said, setSaid] = useState("");
  const [bad, setBad] = useState("");
  const newest = useRef(value); // answers may overtake each other: only that of the words that stand there counts
  const check = async (t: string) => {
    newest.current = t;
    try {
      const items = await take(api.POST("/supplier-list", { body: { text: t } }));
      if (newest.current !== t) return;
      setBad("");
      setSaid(
        items.length
          ? `${items.length} entries: ${items.map((i) => i.name + (i.parts?.length ? ` (${i.parts.length})` : "")).join(", ")}`
          : "",
      );
    } catch (e) {
      const p = problemOf(e);
      if (newest.current === t) setBad(p.fields[0]?.message ?? p.title);
    }
  };
  return (
    <AreaField
      label={label}
      rows={2}
      value={text}
      error={bad || error}
      hint={said || "Entries by semicolon or comma, an entry's own list in brackets"}
      onChange={(e) => {
        setText(e.target.value);
        void check(e.target.value);
      }}
      onBlur={() => text !== value && !bad && onSave(text)}
    />
  );
}

export function Codes({
  label,
  hint,
  value,
  error,
  onSave,
}: {
  label: string;
  hint: string;
  value: string[];
  error: string;
  onSave: (v: string[]) => void;
}) {
  const [text, setText] = useState(value.join(", "));
  const parse = (t: string) =>
    t
      .split(/[,;]/)
      .map((s) => s.trim().toLowerCase())
      .filter(Boolean);
  return (
    <TextField
      label={label}
      hint={hint}
      value={text}
      error={error}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => parse(text).join() !== value.join() && onSave(parse(text))}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

export function PhRange({ value, error, onSave }: { value: Ingredient["ph"]; error: string; onSave: (v: Ingredient["ph"]) => void }) {
  const [low, setLow] = useState<number | null>(value?.low ?? null);
  const [typical, setTypical] = useState<number | null>(value?.typical ?? null);
  const [high, setHigh] = useState<number | null>(value?.high ?? null);
  const done = () => {
    if (typical === null) {
      if (value) onSave(null);
      return;
    }
    const next = { typical, low: low ?? typical, high: high ?? typical };
    if (next.typical !== value?.typical || next.low !== value?.low || next.high !== value?.high) onSave(next);
  };
  return (
    <fieldset className="col-span-3 grid grid-cols-3 gap-2" onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && done()}>
      <legend className="sr-only">pH with its range</legend>
      <NumberField label="pH, low" allowEmpty value={low} onValue={setLow} />
      <NumberField label="pH, typical" allowEmpty value={typical} onValue={setTypical} error={error} />
      <NumberField label="pH, high" allowEmpty value={high} onValue={setHigh} />
    </fieldset>
  );
}
