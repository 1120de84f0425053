import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import * as z from "zod/mini";
import { api, type Schemas, take } from "../../api/client";
import { refreshParties } from "../../api/queries/parties";
import { DateField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { Foot, Modal, TextField } from "../../parts/form";
import { Segmented } from "../../parts/marks";
import { words } from "../../parts/schema";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { today } from "../../tongue/clock";

type Party = Schemas["Party"];

const FRESH: Party = { id: 0, name: "", kind: "customer", contact: "", day: "", rev: 0, retired: false };

/** Who gets jars, and how a call-back reaches them. */
export function PartiesDialog({ open, parties, onClose }: { open: boolean; parties: Party[]; onClose: () => void }) {
  const { day } = useFormats();
  const me = useMe();
  const [editing, setEditing] = useState<Party | null>(null);
  const [retiring, setRetiring] = useState<Party | null>(null);
  const client = useQueryClient();
  const done = async () => {
    await refreshParties(client);
    setEditing(null);
  };
  const mine = parties.filter((p) => !p.retired);
  return (
    <Modal open={open} onClose={onClose} title="Customers and market days" width={640}>
      {editing ? (
        <Edit p={editing} onDone={done} onLeave={() => setEditing(null)} />
      ) : (
        <>
          <ul>
            {mine.map((p) => (
              <li
                key={p.id}
                className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_auto] items-center gap-3 border-b border-rule-soft py-1"
              >
                <span className="min-w-0">
                  <b className="block truncate text-lead">{p.name}</b>
                  <span className="text-note text-ink-2">{p.day ? `market of ${day(p.day, true)}` : "customer"}</span>
                </span>
                <span className="min-w-0 [overflow-wrap:anywhere]">{p.contact || <span className="text-ink-3">no contact</span>}</span>
                {me.may("maker") && (
                  <span className="whitespace-nowrap">
                    <button type="button" className="btn-quiet" onClick={() => setEditing(p)}>
                      Change<span className="sr-only"> {p.name}</span>
                    </button>
                    <button type="button" className="btn-quiet" onClick={() => setRetiring(p)}>
                      Retire<span className="sr-only"> {p.name}</span>
                    </button>
                  </span>
                )}
              </li>
            ))}
            {mine.length === 0 && <li className="text-ink-2">Nobody yet. Add whoever gets jars: a call-back names them.</li>}
          </ul>
          {me.may("maker") && (
            <div className="mt-4 flex gap-2">
              <button type="button" className="btn" onClick={() => setEditing(FRESH)}>
                Add a customer
              </button>
              <button type="button" className="btn-line" onClick={() => setEditing({ ...FRESH, kind: "market", day: today() })}>
                Add a market day
              </button>
            </div>
          )}
        </>
      )}
      <WhyDialog
        open={!!retiring}
        title={`Retire ${retiring?.name ?? ""}`}
        text="What they have had stays on record."
        button="Retire"
        act={async (why) => {
          if (!retiring) return;
          await take(
            api.PUT("/parties/{id}", { params: { path: { id: retiring.id }, query: { why } }, body: { ...retiring, retired: true } }),
          );
          await done();
        }}
        onClose={() => setRetiring(null)}
      />
    </Modal>
  );
}

const schema = z.object({ name: words, kind: z.enum(["customer", "market"]), contact: words, day: words });

function Edit({ p, onDone, onLeave }: { p: Party; onDone: () => Promise<void>; onLeave: () => void }) {
  const entry = useEntry({
    schema,
    start: { name: p.name, kind: p.kind as "customer" | "market", contact: p.contact, day: p.day },
    send: async (body) => {
      if (p.id === 0) await take(api.POST("/parties", { body }));
      else await take(api.PUT("/parties/{id}", { params: { path: { id: p.id }, query: {} }, body: { ...p, ...body } }));
      await onDone();
    },
  });
  const { kind } = entry.values;
  return (
    <form {...entry.form}>
      <Segmented
        label="What it is"
        value={kind}
        onChange={(k) => entry.set("kind", k)}
        options={
          [
            ["customer", "a customer"],
            ["market", "a market day"],
          ] as const
        }
      />
      <div className="mt-3 grid grid-cols-2 gap-3">
        <TextField label="Name" autoFocus {...entry.text("name")} />
        {kind === "market" && <DateField label="Day" {...entry.pick("day")} />}
        <TextField label="Reached by" hint="a name with a telephone or an address: for call-backs" {...entry.text("contact")} />
      </div>
      <Foot problem={entry.rest()} onLeave={onLeave}>
        Keep
      </Foot>
    </form>
  );
}
