import { Command } from "cmdk";
import { useDeferredValue, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { useFoundBatches } from "../api/queries/batches";
import { useFormulas } from "../api/queries/formulas";
import { useFoundLots } from "../api/queries/lots";
import { useIngredients } from "../api/queries/pantry";
import { usePreparations } from "../api/queries/preparations";
import { useNewestRecipes } from "../api/queries/reader";
import { Modal } from "./form";

/** Finds an ingredient, formula, batch, lot, recipe or preparation by any part of its name. */
export default function Finder({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const where = useLocation();
  const ingredients = useIngredients();
  const formulas = useFormulas();
  const [text, setText] = useState("");
  const find = useDeferredValue(text.trim());
  const batches = useFoundBatches(find);
  const go = (to: string) => {
    onClose();
    if (where.pathname !== to) navigate(to);
  };
  const lots = useFoundLots(find, find !== "");
  const recipes = useNewestRecipes();
  const steps = usePreparations();
  const item = "flex min-h-9 items-center justify-between rounded-sm px-2 data-[selected=true]:bg-cobalt-tint";
  return (
    <Modal open onClose={onClose} title="Find" width={560}>
      <Command label="Find anything" loop>
        <Command.Input
          autoFocus
          value={text}
          onValueChange={setText}
          placeholder="Ingredient, formula, batch or lot code"
          className="field"
        />
        <Command.List className="mt-3 h-85 overflow-auto">
          <Command.Empty className="p-2 text-ink-2">Nothing by that name.</Command.Empty>
          {/\d/.test(find) && (
            <Command.Item
              value={`${find} follow this code`}
              onSelect={() => go(`/trace?code=${encodeURIComponent(find.trim())}`)}
              className={item}
            >
              Follow {find.trim()} <span className="text-note text-ink-3">every lot in it, every jar of it</span>
            </Command.Item>
          )}
          {formulas.data?.map((f) => (
            <Command.Item key={f.id} value={`${f.name} formula ${f.id}`} onSelect={() => go(`/formulas/${f.id}`)} className={item}>
              {f.name} <span className="text-note text-ink-3">formula</span>
            </Command.Item>
          ))}
          {batches.data?.batches.map((b) => (
            <Command.Item
              key={b.id}
              value={`${b.code} L${b.code} ${b.formula_name} batch`}
              onSelect={() => go(`/batches/${b.id}`)}
              className={item}
            >
              {b.code}, {b.formula_name} <span className="text-note text-ink-3">batch</span>
            </Command.Item>
          ))}
          {find !== "" &&
            lots.data?.lots
              .filter((x) => x.kind !== "batch")
              .map((x) => (
                <Command.Item
                  key={`l${x.id}`}
                  value={`${x.code} ${x.name} ${x.text ?? ""} ${x.supplier ?? ""} lot ${x.id}`}
                  onSelect={() => go(`/lots/${x.id}`)}
                  className={item}
                >
                  {x.code}, {x.name} <span className="text-note text-ink-3">lot</span>
                </Command.Item>
              ))}
          {recipes.data?.recipes.map((r) => (
            <Command.Item key={`r${r.id}`} value={`${r.name} recipe words ${r.id}`} onSelect={() => go(`/reader/${r.id}`)} className={item}>
              {r.name} <span className="text-note text-ink-3">recipe, as it was said</span>
            </Command.Item>
          ))}
          {steps.data?.map((s) => (
            <Command.Item
              key={s.id}
              value={`${s.input_name} ${s.name.replaceAll("_", " ")} preparation ${s.id}`}
              onSelect={() => go(`/preparations/${encodeURIComponent(s.id)}`)}
              className={item}
            >
              {s.input_name}, {s.name.replaceAll("_", " ")} <span className="text-note text-ink-3">preparation</span>
            </Command.Item>
          ))}
          {ingredients.data?.map((g) => (
            <Command.Item key={g.id} value={`${g.name} ingredient ${g.id}`} onSelect={() => go(`/pantry/${g.id}`)} className={item}>
              {g.name} <span className="text-note text-ink-3">ingredient</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Modal>
  );
}
