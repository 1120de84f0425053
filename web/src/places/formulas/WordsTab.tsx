import { fieldMessage } from "../../api/client";
import { Check, TextField } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { EvidenceList } from "../keeping/EvidenceList";
import type { DraftState, Version } from "./useDraft";

const STYLES: [string, string][] = [
  ["leafy_puree", "leafy purée"],
  ["nut_based", "nut based"],
  ["dairy_based", "dairy based"],
  ["yolk_bound", "yolk bound"],
  ["shaken_nothing_fresh", "shaken, nothing fresh"],
  ["pulse_or_root_dip", "pulse or root dip"],
];

/** How it wishes to be kept, the acidity it must meet, and the maker's words for the label. */
export function WordsTab({ draft, locked }: { draft: DraftState; locked: boolean }) {
  const { version, problem, edit, view } = draft;
  const { shop } = useFormats();
  const keep = (change: Partial<Version["keeping"]>) =>
    edit("keeping", (v) => ({ ...v, keeping: { ...v.keeping, ...change } }), `keeping ${Object.keys(change)}`);
  const word = (change: Partial<Version["wording"]>) => edit("label words", (v) => ({ ...v, wording: { ...v.wording, ...change } }));
  const number = (key: "ph_limit" | "ph_target" | "largest_piece_mm", label: string, unit: string, hint?: string) => (
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
  const verdict = view.panel.keeping[shop.regime.toLowerCase()];
  return (
    <div className="sheet p-5">
      <h2 className="phase mb-3 text-lead">Acidity it must meet</h2>
      <div className="grid grid-cols-4 gap-4">
        {number("ph_target", "Target", "pH", "4.2 where plants are in it")}
        {number("ph_limit", "Limit", "pH", "above 4.6 only chilled or frozen")}
        {number("largest_piece_mm", "Largest piece", "mm", "over 5 mm waits 48 h")}
      </div>
      <h2 className="phase mt-6 mb-3 text-lead">Keeping</h2>
      <div className="grid grid-cols-4 gap-4">
        <SelectField
          label="Kept"
          value={version.keeping.asked}
          disabled={locked}
          error={fieldMessage(problem, "keeping.asked")}
          options={[
            ["chilled", "chilled"],
            ["ambient", "on the shelf"],
            ["frozen", "frozen"],
          ]}
          onValue={(chosen) => keep({ asked: chosen })}
        />
        <NumberField
          label="Heat step, coldest jar"
          unit="°C"
          reason={[0, 125]}
          value={version.keeping.heat_min_c ?? 0}
          disabled={locked}
          hint="0 for none"
          onValue={(n) => keep({ heat_min_c: n ?? 0 })}
        />
        <NumberField
          label="held for"
          unit="min"
          value={version.keeping.heat_min_minutes ?? 0}
          disabled={locked}
          onValue={(n) => keep({ heat_min_minutes: n ?? 0 })}
        />
        <NumberField
          label="After opening"
          unit="days"
          value={version.keeping.after_opening_days ?? 0}
          disabled={locked}
          hint={`0 takes the shop's ${shop.opened_days}`}
          onValue={(n) => keep({ after_opening_days: n ?? 0 })}
        />
      </div>
      <div className="mt-3 flex flex-wrap gap-x-5">
        {STYLES.map(([k, name]) => (
          <Check
            key={k}
            label={name}
            disabled={locked}
            checked={version.keeping.styles.includes(k)}
            onChange={(on) =>
              edit("keeping style", (v) => ({
                ...v,
                style_by_lines: false,
                keeping: { ...v.keeping, styles: on ? [...v.keeping.styles, k] : v.keeping.styles.filter((s) => s !== k) },
              }))
            }
          />
        ))}
        <Check
          label="topped with oil"
          disabled={locked}
          checked={!!version.keeping.topped_with_oil}
          onChange={(on) => keep({ topped_with_oil: on })}
        />
      </div>
      <div className="mt-3">
        <Caution
          level={verdict.refused || verdict.ambient_lacks.length > 0 ? "danger" : "needs_you"}
          title="Provisional, on the top of the estimate:"
        >
          {verdict.reason}
        </Caution>
      </div>
      <h2 className="phase mt-6 mb-3 text-lead">Documents that rules ask for</h2>
      <EvidenceList formula={view.formula} versions={view.versions.map((v) => v.version)} />
      <h2 className="phase mt-6 mb-3 text-lead">Words on the label</h2>
      <div className="grid grid-cols-3 gap-4">
        {shop.laws.map((l) => {
          const law = l.regime.toLowerCase();
          const own = version.wording.names?.[law] ?? "";
          return (
            <TextField
              key={law}
              label={`Name on a ${l.title} label`}
              defaultValue={own}
              placeholder={view.name}
              disabled={locked}
              error={fieldMessage(problem, `wording.names.${law}`)}
              onBlur={(e) => e.target.value !== own && word({ names: { ...version.wording.names, [law]: e.target.value } })}
            />
          );
        })}
        <TextField
          label="Descriptive name"
          defaultValue={version.wording.legal_name ?? ""}
          disabled={locked}
          error={fieldMessage(problem, "wording.legal_name")}
          onBlur={(e) => e.target.value !== (version.wording.legal_name ?? "") && word({ legal_name: e.target.value })}
        />
        <SelectField
          label="US: small amounts in a tail"
          value={String(version.wording.tail_percent ?? 0)}
          disabled={locked}
          options={[
            ["0", "no tail"],
            ["2", "2 % or less"],
            ["1.5", "1.5 % or less"],
            ["1", "1 % or less"],
            ["0.5", "0.5 % or less"],
          ]}
          onValue={(chosen) => word({ tail_percent: Number(chosen) })}
        />
        <div className="flex items-end">
          <Check
            label="Show spices as one word"
            disabled={locked}
            checked={!!version.wording.group_spices}
            onChange={(on) => word({ group_spices: on })}
          />
        </div>
      </div>
    </div>
  );
}
