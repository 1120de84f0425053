import { useQueryClient } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { useEntry } from "../../parts/entry";
import { Modal, Refused, TextField } from "../../parts/form";
import { said, words } from "../../parts/schema";
import { SelectField } from "../../parts/select";
import { type Role, useMe } from "../../parts/session";
import { toast } from "../../parts/toast";

type Person = Schemas["PersonView"];

const ROLES = [
  ["helper", "helper: weighs, fills, reads"],
  ["maker", "maker: formulas, batches, decisions in the safe direction"],
  ["owner", "owner: everything, rules and people too"],
] as const;

const change = (p: Person, body: Schemas["PersonChange"]) => take(api.PUT("/people/{id}", { params: { path: { id: p.id } }, body }));

/** Somebody who works here: their role and secret, and that they do so no more; somebody new where of is null. */
export function PersonDialog({ of, onClose }: { of: Person | null; onClose: () => void }) {
  const me = useMe();
  const done = useDone(onClose);
  return (
    <Modal open onClose={onClose} title={of ? of.name : "Somebody new"} width={440}>
      {of ? <Change of={of} done={done} /> : <Add done={done} />}
      {of && me.may("owner") && <Retire of={of} done={done} />}
    </Modal>
  );
}

type Done = (told: string) => Promise<void>;

function useDone(onClose: () => void): Done {
  const client = useQueryClient();
  return async (told) => {
    await refreshAll(client);
    toast(told);
    onClose();
  };
}

const addSchema = z.object({ name: said("give a name"), role: z.enum(["helper", "maker", "owner"]), secret: words });

function Add({ done }: { done: Done }) {
  const entry = useEntry({
    schema: addSchema,
    start: { name: "", role: "maker", secret: "" },
    send: async (body) => {
      await take(api.POST("/people", { body }));
      await done(`${body.name.trim()} works here now.`);
    },
  });
  const { name, secret } = entry.values;
  return (
    <form className="grid gap-4" {...entry.form}>
      <TextField label="Name" {...entry.text("name")} />
      <SelectField label="Works as" options={ROLES} {...entry.pick("role")} onValue={(r) => entry.set("role", r as Role)} />
      <TextField label="First PIN of 6 digits, or a passphrase" type="password" autoComplete="new-password" {...entry.text("secret")} />
      <Refused entry={entry} />
      <button type="submit" className="btn justify-self-end" disabled={entry.busy || !name.trim() || !secret}>
        Add
      </button>
    </form>
  );
}

const changeSchema = z.object({ role: z.enum(["helper", "maker", "owner"]), secret: words });

function Change({ of, done }: { of: Person; done: Done }) {
  const me = useMe();
  const owner = me.may("owner");
  const entry = useEntry({
    schema: changeSchema,
    start: { role: of.role as Role, secret: "" },
    send: async ({ role, secret }) => {
      await change(of, owner ? { role: role === of.role ? undefined : role, secret: secret || undefined } : { secret });
      await done("Stored.");
    },
  });
  return (
    <form className="grid gap-4" {...entry.form}>
      {owner && <SelectField label="Works as" options={ROLES} {...entry.pick("role")} onValue={(r) => entry.set("role", r as Role)} />}
      <TextField label="New PIN or passphrase (empty: stays)" type="password" autoComplete="new-password" {...entry.text("secret")} />
      <Refused entry={entry} />
      <button type="submit" className="btn justify-self-end" disabled={entry.busy}>
        Store
      </button>
    </form>
  );
}

const retireSchema = z.object({ why: said("say why") });

function Retire({ of, done }: { of: Person; done: Done }) {
  const entry = useEntry({
    schema: retireSchema,
    start: { why: "" },
    send: async ({ why }) => {
      await change(of, { retire: true, why });
      await done(`${of.name} is signed out and stays on record.`);
    },
  });
  return (
    <form className="mt-5 border-t border-rule pt-4" {...entry.form}>
      <div className="flex items-end gap-3">
        <TextField className="flex-1" label="Works here no more, because" {...entry.text("why")} />
        <button type="submit" className="btn-beet" disabled={entry.busy || !entry.values.why.trim()}>
          Retire
        </button>
      </div>
      <Refused entry={entry} className="mt-2 text-note" />
    </form>
  );
}
