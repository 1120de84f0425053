import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { Colour } from "../../parts/colour";
import { Check, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { Choice } from "./Choice";

type View = Schemas["LabelView"];
type Design = Schemas["LabelDesign"];

export const FORMS = [
  ["plain", "plain"],
  ["banded", "banded"],
  ["two", "front and back"],
] as const;

const PALETTE = ["#1f3f93", "#8f1d3f", "#b5561f", "#c99a2e", "#2f5d3a", "#2a6f77", "#5b3a29", "#3c3f46"];

const what = (form: string) =>
  form === "banded" ? "a strip with a tinted band" : form === "two" ? "two labels, a band on each" : "all on one face, in black";

export interface Change {
  design?: Partial<Design>;
  width_mm?: number;
  height_mm?: number;
}

interface Props {
  v: View;
  batch: number;
  place: number;
  setPlace: (n: number) => void;
  dateOnly: boolean;
  setDateOnly: (on: boolean) => void;
  edition: string;
  setEdition: (s: string) => void;
  choose: (batch: number) => void;
  save: (c: Change) => void;
  problem: Problem | null;
}

/** What the label is for, on which jar, how it is laid out and what it is printed on: a sentence whose words are chosen. */
export function Choices({ v, batch, place, setPlace, dateOnly, setDateOnly, edition, setEdition, choose, save, problem }: Props) {
  const { day, shop } = useFormats();
  const e = (name: string) => fieldMessage(problem, name);
  const batchWords = (b: Schemas["BatchRow"]) =>
    `${b.code}, ${b.state === "hold" ? "on hold" : b.state}${b.last_day ? `, last day ${day(b.last_day)}` : ""}`;
  const size = `${v.width_mm} × ${v.height_mm} mm`;
  const sheet = v.paper.kind === "sheet";
  const papers = [["", "a size of its own"] as const, ...(shop.stocks ?? []).map((k) => [k.id, k.name] as const)];
  const jars = (shop.jars ?? []).filter((j) => j.shape);
  return (
    <div className="mt-2 flex flex-wrap items-baseline gap-x-6 gap-y-2 border-b border-rule-strong pb-2 text-body text-ink-2">
      <Choice lead="for" name="For the batch" says={v.batch ? batchWords(v.batch) : "no batch yet"} width={400}>
        <SelectField
          label="For the batch"
          value={String(batch)}
          options={[["0", "none: the formula alone"] as const, ...v.batches.map((b) => [String(b.id), batchWords(b)] as const)]}
          onValue={(chosen) => choose(Number(chosen))}
        />
        <p className="mt-2 text-note">Date, lot and what it may contain come from the batch.</p>
      </Choice>
      <Choice lead="on" name="Jar and size" says={`${v.jar?.name ?? "a jar not chosen"}, label ${size}`}>
        <div className="grid gap-3">
          <SelectField
            label="Jar, where the sheet names none"
            value={v.design.jar ?? ""}
            options={[["", "as on the sheet"] as const, ...jars.map((j) => [j.id, j.name] as const)]}
            onValue={(jar) => save({ design: { jar } })}
            error={e("design.jar")}
          />
          <div className="grid grid-cols-2 gap-3">
            <NumberField
              label="Wide"
              unit="mm"
              late
              value={v.width_mm}
              disabled={!!v.design.stock}
              onValue={(n) => save({ width_mm: n ?? 0 })}
              error={e("width_mm")}
            />
            <NumberField
              label="High"
              unit="mm"
              late
              value={v.height_mm}
              disabled={!!v.design.stock}
              onValue={(n) => save({ height_mm: n ?? 0 })}
            />
          </div>
          {v.design.stock && <p className="text-note">The size is that of the paper.</p>}
        </div>
      </Choice>
      <Choice lead="laid out" name="Laid out" says={FORMS.find((f) => f[0] === v.design.form)?.[1] ?? ""} width={380}>
        <Layout v={v} save={save} e={e} />
      </Choice>
      <Choice lead="printed on" name="Printed on" says={sheet ? `${v.paper.name}, from place ${place}` : v.paper.name || "single labels"}>
        <div className="grid gap-3">
          <SelectField
            label="Paper"
            value={v.design.stock ?? ""}
            options={papers}
            onValue={(stock) => save({ design: { stock } })}
            error={e("design.stock")}
          />
          {sheet && <Places v={v} place={place} setPlace={setPlace} />}
          <Check label="Date and lot alone, on labels printed before" checked={dateOnly} onChange={setDateOnly} />
          {dateOnly && (
            <TextField
              label="Edition on that stock, behind the address"
              value={edition}
              error={e("edition")}
              onChange={(x) => setEdition(x.target.value)}
            />
          )}
          <a className="text-note text-cobalt underline" href={`/api/labels/${v.id}/artwork`} download>
            Artwork without a date, for a printing house
          </a>
          {e("from") && <p className="text-note font-semibold text-beet">{e("from")}</p>}
          <Check label="Black only: the band prints in black" checked={!!v.design.mono} onChange={(mono) => save({ design: { mono } })} />
        </div>
      </Choice>
    </div>
  );
}

/** The sheet as it lies in the printer: what is used, and the place to begin at. */
function Places({ v, place, setPlace }: { v: View; place: number; setPlace: (n: number) => void }) {
  const columns = v.paper.columns ?? 1;
  const all = columns * (v.paper.rows ?? 1);
  return (
    <fieldset>
      <legend className="mb-1 text-note">Begin at the first place that is free</legend>
      <div className="grid gap-1" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 56px))` }}>
        {Array.from({ length: all }, (_, i) => i + 1).map((n) => (
          <button
            key={n}
            type="button"
            aria-pressed={n === place}
            aria-label={`Place ${n}`}
            onClick={() => setPlace(n)}
            className={`min-h-9 rounded-sm border text-note ${n === place ? "border-cobalt bg-cobalt font-semibold text-white" : n < place ? "border-rule bg-rule-soft text-ink-3 line-through" : "border-rule-strong bg-white hover:border-cobalt"}`}
          >
            {n}
          </button>
        ))}
      </div>
    </fieldset>
  );
}

function Layout({ v, save, e }: { v: View; save: (c: Change) => void; e: (name: string) => string | undefined }) {
  const { design } = v;
  const { shop } = useFormats();
  const claims = design.claims ?? [];
  const setClaim = (key: string, on: boolean) =>
    save({ design: { claims: on ? [...claims, { key }] : claims.filter((c) => c.key !== key) } });
  return (
    <div className="grid gap-4">
      <div role="radiogroup" aria-label="Laid out" className="grid gap-1">
        {FORMS.map(([form, name]) => (
          <label key={form} className="flex min-h-9 cursor-pointer items-center gap-3 rounded-sm px-1 hover:bg-cobalt-tint">
            <input
              type="radio"
              name="form"
              className="accent-cobalt"
              checked={design.form === form}
              onChange={() => save({ design: { form } })}
            />
            <Pictogram form={form} colour={v.tint} />
            <span>
              <b className="text-ink">{name}</b>, {what(form)}
            </span>
          </label>
        ))}
      </div>
      <fieldset>
        <legend className="mb-1 text-note">Tint of the band</legend>
        <div className="flex flex-wrap gap-1">
          {[...new Set([shop.colour || PALETTE[0], ...PALETTE])].map((c) => (
            <button
              key={c}
              type="button"
              aria-label={`Tint ${c}`}
              aria-pressed={c === v.tint}
              onClick={() => save({ design: { colour: c } })}
              className="size-8 rounded-sm border-2 border-white outline-offset-1 aria-pressed:outline-2 aria-pressed:outline-cobalt"
              style={{ background: c }}
            />
          ))}
          <Colour label="Another tint" value={v.tint} onChosen={(colour) => save({ design: { colour } })} />
        </div>
      </fieldset>
      <TextField
        label="Barcode, EAN-13 or UPC-A"
        defaultValue={design.barcode ?? ""}
        inputMode="numeric"
        hint="your own number; its last digit is checked"
        error={e("design.barcode")}
        onBlur={(x) => x.target.value.trim() !== (design.barcode ?? "") && save({ design: { barcode: x.target.value.trim() } })}
      />
      {design.nutrition === "shown" && shop.laws.find((l) => l.regime === v.regime)?.servings && (
        <NumberField
          label="Serving"
          unit="g"
          late
          allowEmpty
          hint="empty: the usual one"
          value={design.serving_g || null}
          onValue={(n) => save({ design: { serving_g: n ?? 0 } })}
          error={e("design.serving_g")}
        />
      )}
      <TextField
        label="Code for telephones"
        defaultValue={design.qr ?? ""}
        hint="an address or a few words, as squares"
        error={e("design.qr")}
        onBlur={(x) => x.target.value.trim() !== (design.qr ?? "") && save({ design: { qr: x.target.value.trim() } })}
      />
      <div>
        <p className="mb-1 text-note">Claims that the formula is held against</p>
        <div className="grid gap-1">
          {v.claim_rules.map((r) => {
            const mine = claims.find((c) => c.key === r.key);
            return (
              <div key={r.key}>
                <Check label={r.words} checked={!!mine} onChange={(on) => setClaim(r.key, on)} />
                {mine && r.shows && (
                  <TextField
                    label={`Shown for it: ${r.shows}`}
                    defaultValue={mine.shown ?? ""}
                    onBlur={(x) =>
                      x.target.value !== (mine.shown ?? "") &&
                      save({ design: { claims: claims.map((c) => (c.key === r.key ? { ...c, shown: x.target.value } : c)) } })
                    }
                  />
                )}
              </div>
            );
          })}
        </div>
        <OwnClaims claims={claims} save={save} e={e} />
      </div>
    </div>
  );
}

/** Words of the maker's own on nutrients, health or origin: they need their figure and the rule it meets. */
function OwnClaims({
  claims,
  save,
  e,
}: {
  claims: Schemas["LabelClaim"][];
  save: (c: Change) => void;
  e: (name: string) => string | undefined;
}) {
  const put = (i: number, part: Schemas["LabelClaim"]) =>
    save({ design: { claims: claims.map((c, k) => (k === i ? { ...c, ...part } : c)) } });
  return (
    <div className="mt-2 grid gap-2">
      {claims.map(
        (c, i) =>
          !c.key && (
            // biome-ignore lint/suspicious/noArrayIndexKey: a claim is its place
            <div key={i} className="grid grid-cols-[1fr_auto] items-end gap-2 border-t border-rule pt-2">
              <TextField
                label="Your words"
                defaultValue={c.words ?? ""}
                error={e(`design.claims[${i}].words`)}
                onBlur={(x) => x.target.value !== (c.words ?? "") && put(i, { words: x.target.value })}
              />
              <button
                type="button"
                className="btn-quiet text-beet!"
                onClick={() => save({ design: { claims: claims.filter((_, k) => k !== i) } })}
              >
                Out
              </button>
              <TextField
                className="col-span-2"
                label="The figure, and the rule that it meets"
                defaultValue={c.shown ?? ""}
                onBlur={(x) => x.target.value !== (c.shown ?? "") && put(i, { shown: x.target.value })}
              />
            </div>
          ),
      )}
      <button
        type="button"
        className="btn-quiet justify-self-start"
        onClick={() => save({ design: { claims: [...claims, { words: "Words of your own" }] } })}
      >
        Add words of your own
      </button>
    </div>
  );
}

function Pictogram({ form, colour }: { form: string; colour: string }) {
  const lines = (x: number, w: number) => [13, 17, 21].map((y) => <path key={y} d={`M${x} ${y}h${w}`} stroke="#8c97a6" />);
  return (
    <svg width="52" height="28" viewBox="0 0 52 28" aria-hidden="true" className="shrink-0">
      {form === "two" ? (
        <>
          <rect x="0.5" y="2.500" width="23" height="23" fill="#fff" stroke="#9aa6b8" />
          <rect x="28.500" y="2.500" width="23" height="23" fill="#fff" stroke="#9aa6b8" />
          <path d="M1 5.500h22M29 5.500h22" stroke={colour} strokeWidth="5" />
          <path d="M5 15h14" stroke="#16202e" strokeWidth="2.500" />
          {lines(32, 16)}
        </>
      ) : (
        <>
          <rect x="0.5" y="2.500" width="51" height="23" fill="#fff" stroke="#9aa6b8" />
          {form === "banded" && <path d="M1 5.500h50" stroke={colour} strokeWidth="5" />}
          <path d={form === "banded" ? "M5 15h16" : "M5 8h24"} stroke="#16202e" strokeWidth="2.500" />
          {form === "banded" ? lines(28, 20) : lines(5, 42)}
        </>
      )}
    </svg>
  );
}
