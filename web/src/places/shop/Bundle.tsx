import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { type Problem, posted, problemOf, type Schemas } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { Modal } from "../../parts/form";
import { toast } from "../../parts/toast";
import { underKey } from "../../saving/insist";

/** Formulas, pantry and prices from shop to shop, out and in: first the plan, then all or nothing. */
export function BundleFiles() {
  const input = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [plan, setPlan] = useState<Schemas["ImportPlan"] | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const send = async (f: File, apply: boolean) => {
    const errand = JSON.stringify(["bundle", apply, f.name, f.size, f.lastModified]);
    setFile(f);
    try {
      setPlan((await underKey(errand, (key) => posted(`/api/bundle?apply=${apply}`, f, key))) as Schemas["ImportPlan"]);
      setProblem(null);
    } catch (e) {
      setProblem(problemOf(e));
      setPlan(null);
      return;
    }
    if (apply) {
      setFile(null);
      await refreshAll(client);
      toast("The bundle is in.");
    }
  };
  return (
    <section className="sheet col-span-2 flex flex-wrap items-center gap-3 p-5" aria-label="Bundle">
      <div className="mr-auto">
        <h2 className="phase mb-1 text-lead">From shop to shop</h2>
        <p className="max-w-160 text-note text-ink-2">
          A bundle carries formulas, pantry and prices to another shop. It is no backup: no batch, no lot, no document and nobody’s name is
          in it.
        </p>
      </div>
      <a className="btn-line inline-flex items-center" href="/api/bundle" download>
        Bundle out
      </a>
      <button type="button" className="btn-line" onClick={() => input.current?.click()}>
        Bundle in
      </button>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="sr-only"
        tabIndex={-1}
        aria-label="Bundle file"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) void send(f, false);
        }}
      />
      <Modal open={!!file} onClose={() => setFile(null)} title={problem ? "The bundle was not taken in" : "What the bundle brings"}>
        {problem && (
          <>
            <p>{problem.title}</p>
            <ul className="mt-3 max-h-72 list-disc overflow-auto pl-5 text-body">
              {problem.fields.map((f) => (
                <li key={f.field + f.message}>
                  <b>{f.field}</b>: {f.message}
                </li>
              ))}
            </ul>
          </>
        )}
        {plan && (
          <>
            <p>
              {plan.new.length} new, {plan.different.length} different, {plan.same} the same.
            </p>
            {plan.different.length > 0 && <p className="mt-2 text-note">Different, to be replaced: {plan.different.join(", ")}.</p>}
            {plan.new.length > 0 && <p className="mt-2 max-h-40 overflow-auto text-note text-ink-2">New: {plan.new.join(", ")}.</p>}
            {plan.forbidden.length > 0 && <p className="mt-2 font-semibold text-beet">{plan.forbidden.join("; ")}.</p>}
            <div className="mt-4 flex justify-end gap-2">
              <button type="button" className="btn-line" onClick={() => setFile(null)}>
                Leave it
              </button>
              <button type="button" className="btn" disabled={plan.forbidden.length > 0} onClick={() => file && send(file, true)}>
                Take it in
              </button>
            </div>
          </>
        )}
      </Modal>
    </section>
  );
}
