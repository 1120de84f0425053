import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, take } from "../../api/client";
import { refreshMeasure } from "../../api/queries/pantry";
import { MeasureDialog, measureWords } from "../../parts/measure";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { WhyDialog } from "../../parts/why";
import { Block } from "./Block";

type View = Schemas["IngredientView"];

/** Spoons, cloves and handfuls of it: the maker's own, weighed, before the typical ones. */
export function Measures({ view }: { view: View }) {
  const { num } = useFormats();
  const client = useQueryClient();
  const [weighing, setWeighing] = useState<Schemas["Measure"] | "new" | null>(null);
  const own = view.measures.filter((m) => m.source === "house");
  const typical = view.measures.filter((m) => m.source !== "house");
  const [going, setGoing] = useState<Schemas["Measure"] | null>(null);
  const drop = async (why: string) => {
    const measure = going?.measure ?? "";
    const v = await take(
      api.DELETE("/ingredients/{id}/measures/{measure}", { params: { path: { id: view.id, measure }, query: { why } } }),
    );
    await refreshMeasure(client, v);
    toast(`The typical ${measureWords(measure)} counts again.`);
  };
  const row = "grid grid-cols-[minmax(0,1fr)_70px_52px_104px] items-center border-b border-rule-soft text-body";
  return (
    <Block title="Spoons, pieces, handfuls">
      <WhyDialog
        open={!!going}
        title={`Take your ${measureWords(going?.measure ?? "")} out`}
        button="Take it out"
        act={drop}
        onClose={() => setGoing(null)}
      />
      {view.measures.length === 0 && <p className="text-note text-ink-2">No measure of it is known. Weigh one of yours three times.</p>}
      {own.map((m) => (
        <div key={m.measure} className={`${row} min-h-11`}>
          <span className="truncate">
            <b className="font-semibold">{measureWords(m.measure)}</b>{" "}
            <small className="block text-note leading-tight text-ink-2">yours, {m.weighings?.length} times</small>
          </span>
          <span className="text-right font-semibold">
            {num(m.grams, m.grams < 0.1 ? 3 : m.grams < 1 ? 2 : 1)}
            <span className="unit">g</span>
          </span>
          <span className="text-right text-ink-2">±{num(m.spread_percent, 0)} %</span>
          <span className="text-right">
            <button type="button" className="min-h-7 px-1 text-note font-semibold text-cobalt" onClick={() => setWeighing(m)}>
              again
            </button>
            <button
              type="button"
              className="min-h-7 px-1 text-note text-ink-3 hover:text-beet"
              aria-label={`Take your own ${measureWords(m.measure)} out`}
              onClick={() => setGoing(m)}
            >
              take out
            </button>
          </span>
        </div>
      ))}
      <div className="max-h-44 overflow-y-auto">
        {typical.map((m) => {
          const beaten = own.some((o) => o.measure === m.measure);
          return (
            <div key={m.measure} className={`${row} min-h-8 ${beaten ? "text-ink-3 line-through" : ""}`}>
              <span className="truncate">
                <span aria-hidden className="hatch mr-2 inline-block h-2.25 w-4 border border-cobalt" />
                {measureWords(m.measure)}
              </span>
              <span className="text-right">
                {num(m.grams, m.grams < 0.1 ? 3 : m.grams < 1 ? 2 : 1)}
                <span className="unit">g</span>
              </span>
              <span className="text-right text-ink-2">±{num(m.spread_percent, 0)} %</span>
              <span className="text-right">
                {!beaten && (
                  <button type="button" className="min-h-7 px-1 text-note font-semibold text-cobalt" onClick={() => setWeighing(m)}>
                    weigh yours
                  </button>
                )}
              </span>
            </div>
          );
        })}
      </div>
      <button type="button" className="btn-quiet mt-1" onClick={() => setWeighing("new")}>
        Weigh another measure
      </button>
      {weighing && (
        <MeasureDialog
          ingredient={view.id}
          name={view.name}
          measure={weighing === "new" ? "" : weighing.measure}
          have={weighing === "new" ? undefined : weighing.weighings}
          typical={weighing === "new" ? undefined : typical.find((m) => m.measure === weighing.measure)?.grams}
          onClose={() => setWeighing(null)}
        />
      )}
    </Block>
  );
}
