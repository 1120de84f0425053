import { useEffect, useState } from "react";
import { fieldMessage, type Problem, problemOf } from "../api/client";
import { Modal, TextField } from "./form";

/** Takes something out of use, with the reason: nothing of record is deleted. act throws what the server refuses. */
export function WhyDialog({
  open,
  title,
  text,
  button,
  act,
  onClose,
}: {
  open: boolean;
  title: string;
  text?: string;
  button: string;
  act: (why: string) => Promise<unknown>;
  onClose: () => void;
}) {
  const [why, setWhy] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  useEffect(() => {
    if (open) {
      setWhy("");
      setProblem(null);
    }
  }, [open]);
  return (
    <Modal open={open} onClose={onClose} title={title} width={440}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          try {
            await act(why);
            onClose();
          } catch (x) {
            setProblem(problemOf(x));
          }
        }}
      >
        {text && <p className="mb-3 text-body text-ink-2">{text}</p>}
        <TextField
          label="Why; it stays on record"
          autoFocus
          value={why}
          onChange={(e) => setWhy(e.target.value)}
          error={fieldMessage(problem, "why") || (problem?.title ?? "")}
        />
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn-line" onClick={onClose}>
            Leave it
          </button>
          <button type="submit" className="btn-beet" disabled={!why.trim()}>
            {button}
          </button>
        </div>
      </form>
    </Modal>
  );
}
