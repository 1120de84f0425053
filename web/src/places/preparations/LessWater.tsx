import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, problemOf, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { useLessWater } from "../../api/queries/preparations";
import { Modal } from "../../parts/form";
import { MakeUpBar } from "../../parts/makeup";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import type { PreparationData } from "./ways";

type Composition = Schemas["Composition"];

const SHOWN: [keyof Composition, string, string, number][] = [
  ["water", "water", "g", 1],
  ["fat", "fat", "g", 1],
  ["sugars", "sugars", "g", 1],
  ["protein", "protein", "g", 1],
  ["fibre", "fibre", "g", 1],
  ["sodium_mg", "sodium", "mg", 0],
];

/** Where a step only drives water off, what comes out is the same with less water: worked out, shown, taken over. */
export function LessWater({ p }: { p: PreparationData }) {
  const { num } = useFormats();
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const q = useLessWater(p, open);
  const apply = async () => {
    if (!q.data) return;
    try {
      await take(api.PUT("/ingredients/{id}", { params: { path: { id: p.output }, query: { rev: q.data.now.rev } }, body: q.data.worked }));
      await refreshAll(client);
      toast(`${p.output_name} is made of what was worked out now.`);
      setOpen(false);
    } catch (e) {
      toast.error(problemOf(e).title);
    }
  };
  const acid = (a: Schemas["Acids"]) => (a.acetic ?? 0) + (a.citric ?? 0) + (a.malic ?? 0) + (a.lactic ?? 0) + (a.tartaric ?? 0);
  return (
    <>
      <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
        The same, less water …
      </button>
      {open && (
        <Modal open onClose={() => setOpen(false)} title={`${p.output_name}: the same, less water`} width={560}>
          <p className="mb-3 text-note text-ink-2">
            Only where the step drives off or drains nothing but water. What stays of oil and salt from the pan is in it. The pH is not
            worked out; measure it.
          </p>
          {q.isError && (
            <p role="alert" className="font-semibold text-beet">
              {problemOf(q.error).title}
            </p>
          )}
          {q.data && (
            <>
              <table className="ledger w-full">
                <thead>
                  <tr>
                    <th>in 100 g</th>
                    <th className="num">as it stands</th>
                    <th className="num">worked out</th>
                  </tr>
                </thead>
                <tbody>
                  {SHOWN.map(([k, name, unit, places]) => (
                    <tr key={k}>
                      <td>{name}</td>
                      <td className="num text-ink-2">
                        {num(q.data.now.composition[k] ?? 0, places)}
                        <span className="unit">{unit}</span>
                      </td>
                      <td className="num font-semibold">
                        {num(q.data.worked.composition[k] ?? 0, places)}
                        <span className="unit">{unit}</span>
                      </td>
                    </tr>
                  ))}
                  <tr>
                    <td>acids</td>
                    <td className="num text-ink-2">
                      {num(acid(q.data.now.acids), 2)}
                      <span className="unit">g</span>
                    </td>
                    <td className="num font-semibold">
                      {num(acid(q.data.worked.acids), 2)}
                      <span className="unit">g</span>
                    </td>
                  </tr>
                </tbody>
              </table>
              <p className="mt-2 mb-1 text-note text-ink-2">as it stands</p>
              <MakeUpBar makeUp={q.data.now.make_up} scale={4.8} height={14} max={500} />
            </>
          )}
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn-quiet" onClick={() => setOpen(false)}>
              Leave it as it is
            </button>
            <button type="button" className="btn" disabled={!q.data} onClick={apply}>
              Take it over
            </button>
          </div>
        </Modal>
      )}
    </>
  );
}
