import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { useFormulas } from "../../api/queries/formulas";
import { refreshLabels, useLabels } from "../../api/queries/labels";
import { Head, Modal } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { FORMS } from "./Choices";
import { Shelf } from "./Shelf";
import { USUAL_STOCK, usualLabel } from "./stock";

export default function Labels() {
  const list = useLabels();
  const [params, setParams] = useSearchParams();
  const [open, setOpen] = useState(params.has("make"));
  if (list.isPending) return <Loading what="the labels" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  return (
    <div className="px-6 pt-4 pb-6">
      <Head title="Labels" sub="drafted from the formula and the suppliers' lists">
        <button type="button" className="btn" onClick={() => setOpen(true)}>
          Make a label
        </button>
      </Head>
      {list.data.length === 0 ? (
        <div className="sheet mt-4 max-w-xl p-6">
          <p className="font-title text-title">No label yet.</p>
          <p className="mt-2 text-ink-2">
            A label belongs to a locked formula, under the law of a country, on a stock of your size. Its words follow the formula.
          </p>
        </div>
      ) : (
        <Shelf labels={list.data} />
      )}
      <NewLabel
        open={open}
        of={params.get("make") ?? ""}
        onClose={() => {
          setOpen(false);
          if (params.has("make")) setParams({}, { replace: true });
        }}
      />
    </div>
  );
}

function NewLabel({ open, of, onClose }: { open: boolean; of: string; onClose: () => void }) {
  const { shop } = useFormats();
  const [params] = useSearchParams();
  const formulas = useFormulas({ enabled: open });
  const ready = formulas.data?.filter((f) => f.locked > 0 && !f.retired) ?? [];
  const [formula, setFormula] = useState(of);
  const [regime, setRegime] = useState(shop.regime);
  const usual = usualLabel(shop.stocks);
  const [paper, setPaper] = useState(usual.design.stock);
  const [form, setForm] = useState(usual.design.form);
  const [width, setWidth] = useState<number | null>(USUAL_STOCK.wide);
  const [height, setHeight] = useState<number | null>(USUAL_STOCK.high);
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  const navigate = useNavigate();
  const [make, busy] = useAct(async () => {
    try {
      const l = await take(
        api.POST("/labels", {
          body: {
            formula: formula || ready[0]?.id || "",
            regime,
            width_mm: width ?? 0,
            height_mm: height ?? 0,
            design: { form, stock: paper },
          },
        }),
      );
      await refreshLabels(client);
      navigate(`/labels/${l.id}${params.get("batch") ? `?batch=${params.get("batch")}` : ""}`);
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  return (
    <Modal open={open} onClose={onClose} title="Make a label" width={460}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <SelectField
          label="Of which formula"
          value={formula || ready[0]?.id}
          options={ready.map((f) => [f.id, `${f.name}, version ${f.locked}`] as const)}
          onValue={(chosen) => setFormula(chosen)}
          error={fieldMessage(problem, "formula")}
        />
        <SelectField
          label="Under the law of"
          value={regime}
          options={shop.laws.map((l) => [l.regime, l.title] as const)}
          onValue={(chosen) => setRegime(chosen)}
          error={fieldMessage(problem, "regime")}
        />
        <div className="grid grid-cols-2 gap-3">
          <SelectField label="Laid out" value={form} options={FORMS.map(([f, name]) => [f, name] as const)} onValue={setForm} />
          <SelectField
            label="Paper"
            value={paper}
            options={[["", "a size of its own"] as const, ...(shop.stocks ?? []).map((k) => [k.id, k.name] as const)]}
            onValue={setPaper}
          />
        </div>
        {paper === "" && (
          <div className="grid grid-cols-2 gap-3">
            <NumberField label="Wide" unit="mm" value={width} onValue={setWidth} error={fieldMessage(problem, "width_mm")} />
            <NumberField label="High" unit="mm" value={height} onValue={setHeight} error={fieldMessage(problem, "height_mm")} />
          </div>
        )}
        {ready.length === 0 && formulas.data && <p className="text-ink-2">No formula has a locked version yet.</p>}
        <button type="submit" className="btn justify-self-end" disabled={busy || ready.length === 0}>
          Set the label
        </button>
      </form>
    </Modal>
  );
}
