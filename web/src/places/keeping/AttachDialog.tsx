import * as z from "zod/mini";
import { posted } from "../../api/client";
import { DateField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { Check, Foot, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { figure, words } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { underKey } from "../../saving/insist";
import { KINDS } from "./kinds";

const schema = z.object({
  kind: words,
  title: words,
  days: figure,
  why: words,
  versions: z.array(z.number()),
  law: words,
  product: words,
  max_ph: figure,
  storage: words,
  heat_c: figure,
  heat_min: figure,
  no_heat: z.boolean(),
  issued_by: words,
  dated: words,
  file: z.nullable(z.instanceof(File)),
});

/** The document as it is sent, with what it says it covers: what was left open is not said. */
function formOf(formula: string, { kind, title, days, why, versions, file, ...says }: z.infer<typeof schema>) {
  const form = new FormData();
  form.set("formula", formula);
  form.set("kind", kind);
  form.set("title", title);
  form.set("why", why);
  const said = kind === "quality_study" ? [] : Object.entries(says).filter(([, v]) => v !== null && v !== "");
  form.set("covers", JSON.stringify({ versions, ...Object.fromEntries(said) }));
  if (days !== null && kind !== "authority") form.set("days", String(days));
  if (file) form.set("file", file);
  return form;
}

/** A document with what it says it covers; an owner signs it off with the reason. */
export function AttachDialog({
  formula,
  versions,
  onClose,
  onDone,
}: {
  formula: string;
  versions: number[];
  onClose: () => void;
  onDone: () => void;
}) {
  const { shop } = useFormats();
  const entry = useEntry({
    schema,
    start: {
      kind: "quality_study",
      title: "",
      days: null,
      why: "",
      versions: versions.slice(-1),
      law: shop.regime,
      product: "",
      max_ph: null,
      storage: "chilled",
      heat_c: null,
      heat_min: null,
      no_heat: false,
      issued_by: "",
      dated: "",
      file: null,
    },
    send: async (typed) => {
      const { file, ...said } = typed;
      const errand = JSON.stringify(["evidence", formula, said, file?.name, file?.size, file?.lastModified]);
      await underKey(errand, (key) => posted("/api/evidence", formOf(formula, typed), key));
      onDone();
      onClose();
    },
  });
  const { kind, versions: of, no_heat } = entry.values;
  const safety = kind !== "quality_study";
  const noFile = entry.error("file");
  const noVersion = entry.error("versions");
  return (
    <Modal open onClose={onClose} title="Attach a document" width={560}>
      <form className="grid gap-3" {...entry.form}>
        <SelectField label="What it is" options={KINDS} {...entry.pick("kind")} />
        <TextField label="Title" {...entry.text("title")} />
        <fieldset>
          <legend className="mb-1 text-note text-ink-2">It is about</legend>
          <div className="flex flex-wrap gap-x-5">
            {versions.map((n) => (
              <Check
                key={n}
                label={`version ${n}`}
                checked={of.includes(n)}
                onChange={(on) => entry.set("versions", on ? [...of, n].toSorted((a, b) => a - b) : of.filter((x) => x !== n))}
              />
            ))}
          </div>
          {noVersion && (
            <p role="alert" className="text-note font-semibold text-beet">
              {noVersion}
            </p>
          )}
        </fieldset>
        {kind !== "authority" && <NumberField label="Days it supports" unit="after making" allowEmpty {...entry.pick("days")} />}
        {safety && (
          <div className="grid grid-cols-2 gap-3 border-l-4 border-cobalt-pale pl-3">
            <SelectField label="Under the law of" options={shop.laws.map((l) => [l.regime, l.title] as const)} {...entry.pick("law")} />
            <SelectField
              label="Storage it covers"
              options={[
                ["chilled", "chilled"],
                ["ambient", "ambient"],
                ["frozen", "frozen"],
              ]}
              {...entry.pick("storage")}
            />
            <TextField className="col-span-2" label="Product, as it names it" {...entry.text("product")} />
            <NumberField label="Up to pH" allowEmpty {...entry.pick("max_ph")} />
            <DateField label="Dated" {...entry.pick("dated")} />
            <TextField className="col-span-2" label="Issued by" {...entry.text("issued_by")} />
            {kind === "authority" && (
              <>
                <Check label="it says that no heat step is needed" {...entry.tick("no_heat")} />
                <span />
                {!no_heat && (
                  <>
                    <NumberField label="Heat step, coldest jar" unit="°C" reason={[0, 130]} allowEmpty {...entry.pick("heat_c")} />
                    <NumberField label="held for" unit="min" allowEmpty {...entry.pick("heat_min")} />
                  </>
                )}
              </>
            )}
          </div>
        )}
        <label className="text-note text-ink-2">
          The document
          <input
            type="file"
            aria-invalid={!!noFile}
            aria-describedby={noFile ? "no-document" : undefined}
            className="mt-1 block w-full text-note file:mr-3 file:min-h-9 file:rounded-md file:border file:border-solid file:border-rule-strong file:bg-white file:px-4 file:font-semibold"
            onChange={(e) => entry.set("file", e.target.files?.[0] ?? null)}
          />
        </label>
        {noFile && (
          <p id="no-document" role="alert" className="-mt-2 text-note font-semibold text-beet">
            {noFile}
          </p>
        )}
        <TextField label="Why it is attached" {...entry.text("why")} />
        <Foot problem={entry.rest()} onLeave={onClose}>
          Sign off and attach
        </Foot>
      </form>
    </Modal>
  );
}
