import { useQuery } from "@tanstack/react-query";
import * as z from "zod/mini";
import { accepted, api, problemOf, type Schemas, take } from "../../../api/client";
import { keys } from "../../../api/queries/keys";
import { useIngredients } from "../../../api/queries/pantry";
import { useEntry } from "../../../parts/entry";
import { said } from "../../../parts/schema";
import { Select } from "../../../parts/select";
import { useFormats } from "../../../parts/shop";
import { fixed, readQuantity } from "../../../tongue/quantity";
import type { Desk } from "./desk";

const PURPOSES = ["thicker", "thinner", "salt", "acid", "heat"] as const;

const schema = z.object({ purpose: z.enum(PURPOSES), ingredient: said("what goes in?"), typed: said("how many grams?"), lot: z.string() });

/** Something more goes in, for a reason; what it does to the pH is seen before. */
export function Addition({
  batch,
  load,
  rehearsal,
  decide,
  onDone,
}: {
  batch: number;
  load: number;
  rehearsal: boolean;
  decide: Desk["decide"];
  onDone: () => void;
}) {
  const { num } = useFormats();
  const pantry = useIngredients();
  const entry = useEntry({
    schema,
    start: { purpose: "salt", ingredient: "", typed: "", lot: "" },
    send: async ({ purpose, ingredient }) => {
      await accepted(
        decide({ kind: "added", added: { load, ingredient, grams, purpose, ...(of ? { draws: [{ code: of, grams }] } : {}) } }),
      );
      onDone();
    },
  });
  const { purpose, ingredient, typed, lot } = entry.values;
  const r = readQuantity(typed, { measure: "mass" });
  const grams = r.kind === "value" && r.value > 0 ? r.value : 0;
  const look = useQuery({
    queryKey: keys.batches.addition(batch, load, ingredient, grams),
    queryFn: () => take(api.POST("/batches/{id}/addition", { params: { path: { id: batch } }, body: { load, ingredient, grams } })),
    enabled: !rehearsal && ingredient !== "" && grams > 0,
    retry: false,
  });
  const seen = look.data;
  const lots = (seen?.lots ?? []).filter((c) => c.why_not === "");
  const of = lot || lots[0]?.code || "";
  const water = pantry.data?.find((g) => g.id === ingredient)?.id.startsWith("water") ?? false;
  const options = [
    ["", "choose what goes in"] as const,
    ...(pantry.data ?? []).filter((g) => !g.retired).map((g) => [g.id, g.name] as const),
  ];
  const wrong = entry.rest() ?? (look.isError ? problemOf(look.error) : null);
  const known = rehearsal || (seen && seen.lacks.length === 0 && (of || water));
  return (
    <form className="mt-4 grid max-w-160 gap-3 rounded-lg border-2 border-rule-strong bg-white p-4" {...entry.form}>
      <fieldset className="flex flex-wrap gap-2">
        <legend className="sr-only">What for</legend>
        {PURPOSES.map((k) => (
          <button
            key={k}
            type="button"
            aria-pressed={purpose === k}
            onClick={() => entry.set("purpose", k)}
            className={`min-h-16 rounded-lg border-2 px-4 text-title font-semibold ${purpose === k ? "border-ink bg-ink text-white" : "border-rule-strong bg-white"}`}
          >
            {k}
          </button>
        ))}
      </fieldset>
      <Select
        aria-label="What goes in"
        value={ingredient}
        onValue={(v) => entry.set("ingredient", v)}
        options={options}
        className="field h-14! text-title"
      />
      <div className="flex flex-wrap items-end gap-3">
        <label className="text-lead">
          Grams
          <input
            inputMode="decimal"
            className="field mt-1 block h-14! w-40! text-display font-semibold"
            value={typed}
            onChange={(e) => entry.set("typed", e.target.value)}
          />
        </label>
        {lots.length > 0 && (
          <div className="text-lead">
            Lot
            <Select
              aria-label="Lot"
              value={of}
              onValue={(v) => entry.set("lot", v)}
              options={lots.map((c) => [c.code, `${c.code}, ${num(c.reaches_g)} g`] as const)}
              className="field mt-1 h-14! w-55! text-title"
            />
          </div>
        )}
      </div>
      {seen && <Foreseen seen={seen} />}
      {wrong && (
        <p role="alert" className="text-lead font-semibold text-beet">
          {wrong.title}
        </p>
      )}
      <p className="flex gap-2">
        <button
          type="submit"
          className="min-h-16 rounded-lg bg-cobalt px-6 text-title font-semibold text-white disabled:opacity-50"
          disabled={entry.busy || !ingredient || grams <= 0 || !known}
        >
          Add {grams > 0 ? `${num(grams, 1)} g` : "it"}
        </button>
        <button type="button" className="bench-small" onClick={onDone}>
          Nothing
        </button>
      </p>
    </form>
  );
}

/** What the addition does: to the pH, and to the words on the labels. */
function Foreseen({ seen }: { seen: Schemas["AdditionView"] }) {
  return (
    <p className={`border-l-4 py-1 pl-3 text-title ${seen.over ? "border-beet" : seen.raises ? "border-mustard" : "border-leaf"}`}>
      {seen.lacks.length > 0 ? (
        <b className="text-beet">It brings {seen.lacks.join(", ")}, which the labels do not name: make a new version.</b>
      ) : seen.after.high == null ? (
        "The pH cannot be estimated."
      ) : (
        <>
          Estimated pH at most <b>{fixed(seen.after.high, 2)}</b>
          {seen.before.high != null && `, before ${fixed(seen.before.high, 2)}`}
          {seen.over ? ". Over the target: read it before anything else." : seen.raises ? ". It goes up." : "."}
        </>
      )}
    </p>
  );
}
