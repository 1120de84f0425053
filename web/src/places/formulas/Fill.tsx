import { fieldMessage } from "../../api/client";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import type { DraftState } from "./useDraft";

interface Props {
  draft: DraftState;
  locked: boolean;
}

/** The net fill by mass, or by volume once the density is known. */
export function Fill({ draft, locked }: Props) {
  const { version, problem, edit } = draft;
  const { num } = useFormats();
  const ml = version.fill_ml ?? 0;
  const density = version.density_g_ml ?? 0;
  const by = (volume: boolean) =>
    edit("Filled by", (v) => ({ ...v, fill_ml: volume ? Math.round(v.fill_g / (v.density_g_ml || 1)) : 0 }), "fill_ml");
  return (
    <div>
      {ml > 0 ? (
        <NumberField
          label="Net fill"
          unit="mL"
          measure="volume"
          value={ml}
          disabled={locked}
          hint={density > 0 ? `${num(ml * density, 1)} g` : undefined}
          error={fieldMessage(problem, "fill_ml")}
          onValue={(n) => edit("Net fill", (v) => ({ ...v, fill_ml: n ?? 0 }), "fill_ml")}
        />
      ) : (
        <NumberField
          label="Net fill"
          unit="g"
          value={version.fill_g}
          disabled={locked}
          error={fieldMessage(problem, "fill_g") ?? fieldMessage(problem, "fill_ml")}
          onValue={(n) => edit("Net fill", (v) => ({ ...v, fill_g: n ?? 0 }), "fill_g")}
        />
      )}
      {!locked && (
        <button
          type="button"
          className="cursor-pointer text-note text-cobalt underline disabled:cursor-default disabled:text-ink-3 disabled:no-underline"
          disabled={!ml && density <= 0}
          onClick={() => by(!ml)}
        >
          {ml ? "fill by weight" : density > 0 ? "fill by volume" : "by volume: measure the density first"}
        </button>
      )}
    </div>
  );
}

/** The jar it is filled in: it tells the label's room and the least size of its type. */
export function JarField({ draft, locked }: Props) {
  const { version, edit } = draft;
  const { shop } = useFormats();
  const jars = shop.jars ?? [];
  const { says, over } = draft.view.jar_fill;
  return (
    <SelectField
      label="Jar"
      value={version.jar ?? ""}
      disabled={locked}
      options={[["", "not said"] as const, ...jars.map((j) => [j.id, j.name] as const)]}
      hint={over ? undefined : says || undefined}
      error={over ? says : undefined}
      onValue={(jar) => edit("Jar", (v) => ({ ...v, jar }), "jar")}
    />
  );
}
