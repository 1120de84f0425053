import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { useAtSize } from "../../api/queries/formulas";
import { refreshAll } from "../../api/queries/keys";
import { DateField } from "../../parts/date";
import { Modal } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { dayFrom, today } from "../../tongue/clock";
import { fixed } from "../../tongue/quantity";

/** Jars in, weigh sheet out: a batch of a locked version. */
export function PlanDialog({
  open,
  onClose,
  formula,
  version,
  name,
  jars,
}: {
  open: boolean;
  onClose: () => void;
  formula: string;
  version: number;
  name: string;
  jars: number;
}) {
  const [count, setCount] = useState<number | null>(jars || 48);
  const [madeOn, setMadeOn] = useState(today());
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  const navigate = useNavigate();
  useEffect(() => {
    if (open) setProblem(null);
  }, [open]);
  const at = useAtSize(formula, version, count, open);
  const [plan, busy] = useAct(async () => {
    try {
      const b = await take(api.POST("/batches", { body: { formula, version, jars: count ?? 0, made_on: madeOn } }));
      await refreshAll(client);
      navigate(`/batches/${b.id}`);
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  return (
    <Modal open={open} onClose={onClose} title={`Make a batch of ${name}`} width={460}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void plan();
        }}
      >
        <div className="grid grid-cols-2 gap-4">
          <NumberField label="Jars wanted" unit="jars" value={count} onValue={setCount} error={fieldMessage(problem, "jars")} autoFocus />
          <DateField
            label="Made on"
            value={madeOn}
            max={dayFrom(366)}
            onValue={(day) => setMadeOn(day)}
            error={fieldMessage(problem, "made_on")}
          />
        </div>
        <p className="mt-3 text-[13px] text-ink-2">
          {madeOn > today() ? "Planned ahead: it is weighed and filled on its day. " : ""}One load, from version {version}. Losses, overfill
          and samples are added; the lot code comes from the day.
        </p>
        {at.data?.scales_less && <AtSize size={at.data} />}
        {problem && !fieldMessage(problem, "jars") && !fieldMessage(problem, "made_on") && (
          <p role="alert" className="mt-2 font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 flex justify-end">
          <button type="submit" className="btn" disabled={busy || !count}>
            Plan the batch
          </button>
        </div>
      </form>
    </Modal>
  );
}

/** Lines that scale less change the percents: what this size is made of. */
function AtSize({ size }: { size: Schemas["SizeView"] }) {
  const { num, money, shop } = useFormats();
  const less = size.version.lines.filter((l) => (l.scale_exponent ?? 1) < 1);
  const { panel, version } = size;
  return (
    <section className="mt-3 border-t border-rule pt-2 text-[13px]" aria-label="At this size">
      <p className="text-ink-2">
        At {num(size.jars)} jars, because some lines scale less: {money(panel.cost.per_jar)} {shop.currency} a jar
        {panel.ph.low != null && panel.ph.high != null && `, pH ${fixed(panel.ph.low, 2)} to ${fixed(panel.ph.high, 2)}`}.
      </p>
      <ul className="mt-1">
        {less.map((l) => {
          const row = panel.lines.find((x) => x.id === l.id);
          return (
            <li key={l.id} className="flex justify-between">
              <span className="truncate">{row?.name}</span>
              <b className="font-semibold">
                {num(row?.grams ?? 0, 1)} g, {num(row?.percent ?? 0, 2)} %
              </b>
            </li>
          );
        })}
      </ul>
      {panel.ph.high != null && panel.ph.high > version.ph_target && (
        <div className="mt-2">
          <Caution level="danger" title="Not at this size.">
            The top of the band is over the target of {version.ph_target}; plan fewer jars, or let those lines grow with the batch.
          </Caution>
        </div>
      )}
    </section>
  );
}
