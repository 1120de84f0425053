import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { usePeople } from "../../api/queries/people";
import { Modal, TextField } from "../../parts/form";
import { SelectField } from "../../parts/select";
import { type Role, useMe } from "../../parts/session";
import { toast } from "../../parts/toast";

type Person = Schemas["PersonView"];

const ROLES = [
  ["helper", "helper: weighs, fills, reads"],
  ["maker", "maker: formulas, batches, decisions in the safe direction"],
  ["owner", "owner: everything, rules and people too"],
] as const;

/** Who works here, and as what. People who left stay readable. */
export function People() {
  const people = usePeople();
  const me = useMe();
  const [open, setOpen] = useState<Person | "new" | null>(null);
  const here = people.data?.filter((p) => !p.retired_at) ?? [];
  const left = people.data?.filter((p) => p.retired_at) ?? [];
  return (
    <section className="sheet col-span-2 p-5" aria-label="People">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="phase text-lead">People</h2>
        {me.may("owner") && (
          <button type="button" className="btn-line" onClick={() => setOpen("new")}>
            Add somebody
          </button>
        )}
      </div>
      <ul className="grid grid-cols-2 gap-x-8">
        {here.map((p) => (
          <li key={p.id} className="flex min-h-11.5 items-center justify-between gap-3 border-b border-rule-soft">
            <span className="min-w-0 truncate text-lead font-semibold">
              {p.name} <span className="phase ml-1 font-normal">{p.role}</span>
              {!p.can_sign_in && <span className="ml-2 text-note font-normal text-mustard-ink">no PIN yet</span>}
            </span>
            {(me.may("owner") || p.name === me.name) && (
              <button type="button" className="btn-quiet" onClick={() => setOpen(p)}>
                {me.may("owner") ? "Change" : "New PIN"}
              </button>
            )}
          </li>
        ))}
      </ul>
      {left.length > 0 && (
        <p className="mt-3 text-note text-ink-2">Worked here: {left.map((p) => `${p.name} (${p.retired_why})`).join(", ")}.</p>
      )}
      <PersonDialog key={open === "new" ? "new" : (open?.id ?? "none")} of={open} onClose={() => setOpen(null)} />
    </section>
  );
}

function PersonDialog({ of, onClose }: { of: Person | "new" | null; onClose: () => void }) {
  const client = useQueryClient();
  const me = useMe();
  const known = of === "new" ? null : of;
  const [name, setName] = useState(known?.name ?? "");
  const [role, setRole] = useState<Role>((known?.role as Role) ?? "maker");
  const [secret, setSecret] = useState("");
  const [why, setWhy] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const owner = me.may("owner");
  const act = async (call: () => Promise<unknown>, said: string) => {
    try {
      await call();
      await refreshAll(client);
      toast(said);
      onClose();
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  const change = (body: Schemas["PersonChange"], said: string) =>
    act(() => take(api.PUT("/people/{id}", { params: { path: { id: known?.id ?? 0 } }, body })), said);
  const save = () =>
    known
      ? change(owner ? { role: role === known.role ? undefined : role, secret: secret || undefined } : { secret }, "Stored.")
      : act(() => take(api.POST("/people", { body: { name, role, secret } })), `${name.trim()} works here now.`);
  return (
    <Modal open={!!of} onClose={onClose} title={known ? known.name : "Somebody new"} width={440}>
      <form
        className="grid gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        {!known && <TextField label="Name" value={name} onChange={(e) => setName(e.target.value)} error={fieldMessage(problem, "name")} />}
        {owner && (
          <SelectField
            label="Works as"
            value={role}
            options={ROLES}
            onValue={(chosen) => setRole(chosen as Role)}
            error={fieldMessage(problem, "role")}
          />
        )}
        <TextField
          label={known ? "New PIN or passphrase (empty: stays)" : "First PIN of 6 digits, or a passphrase"}
          type="password"
          autoComplete="new-password"
          value={secret}
          onChange={(e) => setSecret(e.target.value)}
          error={fieldMessage(problem, "secret")}
        />
        {problem && problem.fields.length === 0 && (
          <p role="alert" className="font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="flex justify-end">
          <button type="submit" className="btn" disabled={!name.trim() || (!known && !secret)}>
            {known ? "Store" : "Add"}
          </button>
        </div>
      </form>
      {known && owner && (
        <form
          className="mt-5 flex items-end gap-3 border-t border-rule pt-4"
          onSubmit={(e) => {
            e.preventDefault();
            void change({ retire: true, why }, `${known.name} is signed out and stays on record.`);
          }}
        >
          <TextField
            className="flex-1"
            label="Works here no more, because"
            value={why}
            onChange={(e) => setWhy(e.target.value)}
            error={fieldMessage(problem, "why")}
          />
          <button type="submit" className="btn-beet" disabled={!why.trim()}>
            Retire
          </button>
        </form>
      )}
    </Modal>
  );
}
