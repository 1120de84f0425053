import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { Modal, NumberField, TextField } from "../../parts/form";
import { today } from "./time";

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
  const plan = async () => {
    try {
      const b = await take(api.POST("/batches", { body: { formula, version, jars: count ?? 0, made_on: madeOn } }));
      await client.invalidateQueries();
      navigate(`/batches/${b.id}`);
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
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
          <TextField
            label="Made on"
            type="date"
            value={madeOn}
            max={today()}
            onChange={(e) => setMadeOn(e.target.value)}
            error={fieldMessage(problem, "made_on")}
          />
        </div>
        <p className="mt-3 text-[13px] text-ink-2">
          One load, from version {version}. Losses, overfill and samples are added; the lot code comes from the day.
        </p>
        {problem && !fieldMessage(problem, "jars") && !fieldMessage(problem, "made_on") && (
          <p role="alert" className="mt-2 font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 flex justify-end">
          <button type="submit" className="btn">
            Plan the batch
          </button>
        </div>
      </form>
    </Modal>
  );
}
