import { useRef, useState } from "react";
import { fieldMessage, type Problem } from "../../api/client";
import { guarded } from "../../api/guard";
import { DateField } from "../../parts/date";
import { Check, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { KINDS } from "./kinds";

interface Covers {
  law: string;
  product: string;
  max_ph: number | null;
  storage: string;
  heat_c: number | null;
  heat_min: number | null;
  no_heat: boolean;
  issued_by: string;
  dated: string;
}

/** A document with what it says it covers; an owner signs it off with the reason. */
export function AttachDialog({
  formula,
  versions,
  open,
  onClose,
  onDone,
}: {
  formula: string;
  versions: number[];
  open: boolean;
  onClose: () => void;
  onDone: () => void;
}) {
  const { shop } = useFormats();
  const [kind, setKind] = useState("quality_study");
  const [title, setTitle] = useState("");
  const [days, setDays] = useState<number | null>(null);
  const [why, setWhy] = useState("");
  const [of, setOf] = useState<number[]>(versions.slice(-1));
  const [c, setC] = useState<Covers>({
    law: shop.regime,
    product: "",
    max_ph: null,
    storage: "chilled",
    heat_c: null,
    heat_min: null,
    no_heat: false,
    issued_by: "",
    dated: "",
  });
  const [problem, setProblem] = useState<Problem | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const safety = kind !== "quality_study";
  const set = (x: Partial<Covers>) => setC((old) => ({ ...old, ...x }));
  const e = (f: string) => fieldMessage(problem, f);
  const send = async () => {
    const form = new FormData();
    form.set("formula", formula);
    form.set("kind", kind);
    form.set("title", title);
    form.set("why", why);
    const said = Object.fromEntries(Object.entries(c).filter(([, v]) => v !== null && v !== ""));
    form.set("covers", JSON.stringify(safety ? { versions: of, ...said } : { versions: of }));
    if (days !== null && kind !== "authority") form.set("days", String(days));
    const f = file.current?.files?.[0];
    if (f) form.set("file", f);
    const r = await guarded("/api/evidence", { method: "POST", body: form });
    if (!r.ok) {
      setProblem((await r.json()) as Problem);
      return;
    }
    setProblem(null);
    onDone();
    onClose();
  };
  return (
    <Modal open={open} onClose={onClose} title="Attach a document" width={560}>
      <form
        className="grid gap-3"
        onSubmit={(x) => {
          x.preventDefault();
          void send();
        }}
      >
        <SelectField label="What it is" value={kind} options={KINDS} onValue={(chosen) => setKind(chosen)} error={e("kind")} />
        <TextField label="Title" value={title} onChange={(x) => setTitle(x.target.value)} error={e("title")} />
        <fieldset>
          <legend className="mb-1 text-note text-ink-2">It is about</legend>
          <div className="flex flex-wrap gap-x-5">
            {versions.map((n) => (
              <Check
                key={n}
                label={`version ${n}`}
                checked={of.includes(n)}
                onChange={(on) => setOf(on ? [...of, n].toSorted((a, b) => a - b) : of.filter((x) => x !== n))}
              />
            ))}
          </div>
          {e("versions") && (
            <p role="alert" className="text-note font-semibold text-beet">
              {e("versions")}
            </p>
          )}
        </fieldset>
        {kind !== "authority" && (
          <NumberField label="Days it supports" unit="after making" allowEmpty value={days} onValue={setDays} error={e("days")} />
        )}
        {safety && (
          <div className="grid grid-cols-2 gap-3 border-l-4 border-cobalt-pale pl-3">
            <SelectField
              label="Under the law of"
              value={c.law}
              options={shop.laws.map((l) => [l.regime, l.title] as const)}
              onValue={(chosen) => set({ law: chosen })}
              error={e("law")}
            />
            <SelectField
              label="Storage it covers"
              value={c.storage}
              options={[
                ["chilled", "chilled"],
                ["ambient", "ambient"],
                ["frozen", "frozen"],
              ]}
              onValue={(chosen) => set({ storage: chosen })}
              error={e("storage")}
            />
            <TextField
              className="col-span-2"
              label="Product, as it names it"
              value={c.product}
              onChange={(x) => set({ product: x.target.value })}
              error={e("product")}
            />
            <NumberField label="Up to pH" allowEmpty value={c.max_ph} onValue={(n) => set({ max_ph: n })} error={e("max_ph")} />
            <DateField label="Dated" value={c.dated} onValue={(day) => set({ dated: day })} error={e("dated")} />
            <TextField
              className="col-span-2"
              label="Issued by"
              value={c.issued_by}
              onChange={(x) => set({ issued_by: x.target.value })}
              error={e("issued_by")}
            />
            {kind === "authority" && (
              <>
                <Check label="it says that no heat step is needed" checked={c.no_heat} onChange={(on) => set({ no_heat: on })} />
                <span />
                {!c.no_heat && (
                  <>
                    <NumberField
                      label="Heat step, coldest jar"
                      unit="°C"
                      reason={[0, 130]}
                      allowEmpty
                      value={c.heat_c}
                      onValue={(n) => set({ heat_c: n })}
                      error={e("heat_c")}
                    />
                    <NumberField
                      label="held for"
                      unit="min"
                      allowEmpty
                      value={c.heat_min}
                      onValue={(n) => set({ heat_min: n })}
                      error={e("heat_min")}
                    />
                  </>
                )}
              </>
            )}
          </div>
        )}
        <label className="text-note text-ink-2">
          The document
          <input ref={file} type="file" className="mt-1 block text-note" />
        </label>
        {e("file") && (
          <p role="alert" className="font-semibold text-beet">
            {e("file")}
          </p>
        )}
        <TextField label="Why it is attached" value={why} onChange={(x) => setWhy(x.target.value)} error={e("why")} />
        {problem && problem.fields.length === 0 && (
          <p role="alert" className="font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <button type="submit" className="btn justify-self-end">
          Sign off and attach
        </button>
      </form>
    </Modal>
  );
}
