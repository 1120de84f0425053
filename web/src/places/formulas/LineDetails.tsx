import { fieldMessage, type Problem } from "../../api/client";
import { useIngredients } from "../../api/queries/pantry";
import { ChooseIngredient } from "../../parts/choose";
import { AreaField, Check, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { say, wordOr } from "../../tongue/words";
import type { Line } from "./useDraft";

const PURPOSES = [
  ["", "nothing in particular"],
  ["binds", "binds"],
  ["sours", "sours"],
  ["salts", "salts"],
  ["sweetens", "sweetens"],
  ["colours", "colours"],
  ["thins", "thins"],
] as const;

/** What a line says beyond its grams. */
export function LineDetails({
  line,
  index,
  name,
  locked,
  problem,
  onChange,
  onClose,
}: {
  line: Line;
  index: number;
  name: string;
  locked: boolean;
  problem: Problem | null;
  onChange: (what: string, f: (l: Line) => Line) => void;
  onClose: () => void;
}) {
  const names = useIngredients();
  const nameOf = (id: string) => names.data?.find((g) => g.id === id)?.name ?? id;
  const e = (f: string) => fieldMessage(problem, `lines[${index}].${f}`);
  const group = line.any_of ?? [];
  const setGroup = (ids: string[]) => onChange("what may make it up", (l) => ({ ...l, any_of: ids.length > 1 ? ids : undefined }));
  return (
    <Modal open onClose={onClose} title={name} width={560}>
      <fieldset disabled={locked} className="grid gap-4">
        {line.words && (
          <div className="border-l-4 border-cobalt-pale pl-3">
            <p className="font-title text-lead italic">“{line.words}”</p>
            {line.said && (
              <p className="text-note text-ink-2">
                {line.said.grams} g ±{Math.round(line.said.spread_percent)} %: {line.said.how}
              </p>
            )}
          </div>
        )}
        <div className="grid grid-cols-2 gap-4">
          <TextField
            label="Phase, the heading it stands under"
            defaultValue={line.phase ?? ""}
            maxLength={120}
            onBlur={(x) => x.target.value !== (line.phase ?? "") && onChange("phase", (l) => ({ ...l, phase: x.target.value }))}
          />
          <SelectField
            label="What it is for"
            value={line.purpose ?? ""}
            options={PURPOSES.map(([v, text]) => [v, wordOr(text)] as const)}
            error={e("purpose")}
            onValue={(chosen) => onChange("purpose", (l) => ({ ...l, purpose: chosen || undefined }))}
          />
        </div>
        <AreaField
          label="Note"
          rows={2}
          defaultValue={line.note ?? ""}
          onBlur={(x) => x.target.value !== (line.note ?? "") && onChange("note", (l) => ({ ...l, note: x.target.value }))}
        />
        <div className="grid grid-cols-3 gap-4">
          <NumberField
            late
            allowEmpty
            label="Weigh to within"
            unit="%"
            hint="empty: by its kind"
            value={line.tolerance_percent || null}
            error={e("tolerance_percent")}
            onValue={(n) => onChange("tolerance", (l) => ({ ...l, tolerance_percent: n ?? undefined }))}
          />
          <NumberField
            late
            allowEmpty
            label="Held back"
            unit="% for later"
            value={line.hold_back_percent || null}
            error={e("hold_back_percent")}
            onValue={(n) => onChange("hold-back", (l) => ({ ...l, hold_back_percent: n ?? undefined }))}
          />
          <NumberField
            late
            allowEmpty
            label="Scales less"
            unit="exponent"
            hint={say("scales_less")}
            value={line.scale_exponent || null}
            error={e("scale_exponent")}
            onValue={(n) => onChange("scaling", (l) => ({ ...l, scale_exponent: n ?? undefined }))}
          />
        </div>
        {line.ingredient && (
          <section>
            <h3 className="phase text-body">Any of these</h3>
            {group.length > 1 ? (
              <ul className="mt-1 flex flex-wrap gap-2">
                {group.map((id) => (
                  <li key={id} className="flex min-h-8 items-center gap-2 rounded-sm border border-rule-strong bg-white px-2 text-body">
                    {nameOf(id)}
                    {id !== line.ingredient && (
                      <button
                        type="button"
                        className="min-h-6 text-ink-3 hover:text-beet"
                        aria-label={`Take ${nameOf(id)} out of the group`}
                        onClick={() => setGroup(group.filter((x) => x !== id))}
                      >
                        take out
                      </button>
                    )}
                  </li>
                ))}
              </ul>
            ) : (
              <p className="text-note text-ink-2">
                Only {nameOf(line.ingredient)}. Let others stand in, and each batch records which it was; its label lists that one.
              </p>
            )}
            {!locked && group.length < 8 && (
              <ChooseIngredient
                label="Add to the group"
                without={group.length > 0 ? group : [line.ingredient]}
                onChoose={(id) => setGroup([...(group.length > 0 ? group : [line.ingredient ?? ""]), id])}
              >
                or …
              </ChooseIngredient>
            )}
            {e("any_of") && (
              <p role="alert" className="text-note font-semibold text-beet">
                {e("any_of")}
              </p>
            )}
          </section>
        )}
        <Check
          label="Named or pictured on the label (GB prints its percent)"
          checked={!!line.quid}
          onChange={(quid) => onChange("label words", (l) => ({ ...l, quid }))}
        />
        {!line.component && (
          <Check
            label="May be left out at the bench, with a reason (never what sours or preserves)"
            checked={!!line.optional}
            onChange={(optional) => onChange("optional", (l) => ({ ...l, optional }))}
          />
        )}
        {line.component && (
          <Check
            label="Merge its ingredients with the rest on the label"
            checked={!!line.disperse}
            onChange={(disperse) => onChange("label words", (l) => ({ ...l, disperse }))}
          />
        )}
      </fieldset>
      <div className="mt-4 flex justify-end">
        <button type="button" className="btn" onClick={onClose}>
          Done
        </button>
      </div>
    </Modal>
  );
}
