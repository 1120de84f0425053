import { useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearchParams } from "react-router";
import * as z from "zod/mini";
import { api, take } from "../../api/client";
import { useFormulas } from "../../api/queries/formulas";
import { refreshLabels } from "../../api/queries/labels";
import { useEntry } from "../../parts/entry";
import { Foot, Modal } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { needed, words } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { FORMS } from "./Choices";
import { USUAL_STOCK, usualLabel } from "./stock";

const schema = z.object({
  formula: words,
  regime: words,
  form: words,
  stock: words,
  width_mm: needed("how wide?"),
  height_mm: needed("how high?"),
});

/** A label of a locked formula, under a law, on a paper or of a size of its own. */
export function NewLabel({ of, onClose }: { of: string; onClose: () => void }) {
  const { shop } = useFormats();
  const [params] = useSearchParams();
  const formulas = useFormulas({ enabled: true });
  const ready = formulas.data?.filter((f) => f.locked > 0 && !f.retired) ?? [];
  const usual = usualLabel(shop.stocks);
  const client = useQueryClient();
  const navigate = useNavigate();
  const entry = useEntry({
    schema,
    start: {
      formula: of,
      regime: shop.regime,
      form: usual.design.form,
      stock: usual.design.stock,
      width_mm: USUAL_STOCK.wide,
      height_mm: USUAL_STOCK.high,
    },
    send: async ({ formula, form, stock, ...rest }) => {
      const body = { ...rest, formula: formula || ready[0]?.id || "", design: { form, stock } };
      const l = await take(api.POST("/labels", { body }));
      await refreshLabels(client);
      navigate(`/labels/${l.id}${params.get("batch") ? `?batch=${params.get("batch")}` : ""}`);
    },
  });
  const { formula, stock } = entry.values;
  return (
    <Modal open onClose={onClose} title="Make a label" width={460}>
      <form className="grid gap-3" {...entry.form}>
        <SelectField
          label="Of which formula"
          options={ready.map((f) => [f.id, `${f.name}, version ${f.locked}`] as const)}
          {...entry.pick("formula")}
          value={formula || (ready[0]?.id ?? "")}
        />
        <SelectField label="Under the law of" options={shop.laws.map((l) => [l.regime, l.title] as const)} {...entry.pick("regime")} />
        <div className="grid grid-cols-2 gap-3">
          <SelectField label="Laid out" options={FORMS.map(([f, name]) => [f, name] as const)} {...entry.pick("form")} />
          <SelectField
            label="Paper"
            options={[["", "a size of its own"] as const, ...(shop.stocks ?? []).map((k) => [k.id, k.name] as const)]}
            {...entry.pick("stock")}
          />
        </div>
        {stock === "" && (
          <div className="grid grid-cols-2 gap-3">
            <NumberField label="Wide" unit="mm" {...entry.pick("width_mm")} />
            <NumberField label="High" unit="mm" {...entry.pick("height_mm")} />
          </div>
        )}
        {ready.length === 0 && formulas.data && <p className="text-ink-2">No formula has a locked version yet.</p>}
        <Foot problem={entry.rest()} onLeave={onClose} disabled={entry.busy || ready.length === 0}>
          Set the label
        </Foot>
      </form>
    </Modal>
  );
}
