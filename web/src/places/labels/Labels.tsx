import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { useFormulas } from "../../api/queries/formulas";
import { refreshLabels, useLabels } from "../../api/queries/labels";
import { Head, Modal } from "../../parts/form";
import { Failed, Loading, State } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { allergenWords } from "../formulas/Panel";
import { USUAL_STOCK } from "./stock";

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
          <p className="font-title text-[19px]">No label yet.</p>
          <p className="mt-2 text-ink-2">
            A label belongs to a locked formula, under the law of a country, on a stock of your size. Its words follow the formula.
          </p>
        </div>
      ) : (
        <ul className="mt-4 grid grid-cols-[repeat(auto-fill,minmax(250px,1fr))] gap-x-6 gap-y-8">
          {list.data.map((l) => (
            <li key={l.id}>
              <Link to={`/labels/${l.id}`} className="block hover:[&_.paper]:border-cobalt">
                <span className="flex h-[150px] items-end">
                  <span
                    className="paper relative flex flex-col justify-between border border-paper-edge bg-paper p-3 shadow-[0_2px_8px_#1c2c4a1c]"
                    style={{ width: Math.min(250, l.width_mm * 2.05), height: Math.min(150, l.height_mm * 1.75) }}
                  >
                    <span
                      aria-hidden
                      className="absolute -top-[5px] left-1/2 -ml-[5px] size-[9px] rounded-full border border-paper-edge bg-glaze"
                    />
                    <span className="font-title text-[15px] leading-tight font-semibold">{l.formula_name}</span>
                    <span className="flex justify-between text-[12px] text-ink-2">
                      <span>{l.regime}</span>
                      <span>
                        {l.width_mm} × {l.height_mm} mm
                      </span>
                    </span>
                  </span>
                </span>
                <span className="mt-2 flex items-center gap-2">
                  <State of={l.state} />
                  <span className="text-[12.5px] text-ink-2">
                    version {l.version}
                    {l.newest_locked > l.version ? `, newest is ${l.newest_locked}` : ""}
                  </span>
                </span>
                {l.allergens_gained.length > 0 && (
                  <span className="mt-1 block text-[13px] font-semibold text-beet">does not name {allergenWords(l.allergens_gained)}</span>
                )}
              </Link>
            </li>
          ))}
        </ul>
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
  const [width, setWidth] = useState<number | null>(USUAL_STOCK.wide);
  const [height, setHeight] = useState<number | null>(USUAL_STOCK.high);
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  const navigate = useNavigate();
  const [make, busy] = useAct(async () => {
    try {
      const l = await take(
        api.POST("/labels", { body: { formula: formula || ready[0]?.id || "", regime, width_mm: width ?? 0, height_mm: height ?? 0 } }),
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
          <NumberField label="Stock, wide" unit="mm" value={width} onValue={setWidth} error={fieldMessage(problem, "width_mm")} />
          <NumberField label="Stock, high" unit="mm" value={height} onValue={setHeight} error={fieldMessage(problem, "height_mm")} />
        </div>
        {ready.length === 0 && formulas.data && <p className="text-ink-2">No formula has a locked version yet.</p>}
        <button type="submit" className="btn justify-self-end" disabled={busy || ready.length === 0}>
          Set the label
        </button>
      </form>
    </Modal>
  );
}
