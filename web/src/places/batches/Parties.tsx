import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshParties } from "../../api/queries/parties";
import { DateField } from "../../parts/date";
import { Foot, Modal, TextField } from "../../parts/form";
import { Segmented } from "../../parts/marks";
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

function Edit({ p, onDone, onLeave }: { p: Party; onDone: () => Promise<void>; onLeave: () => void }) {
  const [x, setX] = useState(p);
  const [problem, setProblem] = useState<Problem | null>(null);
  const save = async () => {
    try {
      if (x.id === 0) await take(api.POST("/parties", { body: { name: x.name, kind: x.kind, contact: x.contact, day: x.day } }));
      else await take(api.PUT("/parties/{id}", { params: { path: { id: x.id }, query: {} }, body: x }));
      await onDone();
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <Segmented
        label="What it is"
        value={x.kind as "customer" | "market"}
        onChange={(kind) => setX({ ...x, kind })}
        options={
          [
            ["customer", "a customer"],
            ["market", "a market day"],
          ] as const
        }
      />
      <div className="mt-3 grid grid-cols-2 gap-3">
        <TextField
          label="Name"
          autoFocus
          value={x.name}
          onChange={(e) => setX({ ...x, name: e.target.value })}
          error={fieldMessage(problem, "name")}
        />
        {x.kind === "market" && (
          <DateField label="Day" value={x.day} onValue={(day) => setX({ ...x, day: day })} error={fieldMessage(problem, "day")} />
        )}
        <TextField
          label="Reached by"
          value={x.contact}
          onChange={(e) => setX({ ...x, contact: e.target.value })}
          error={fieldMessage(problem, "contact")}
          hint="a name with a telephone or an address: for call-backs"
        />
      </div>
      <Foot problem={problem} onLeave={onLeave}>
        Keep
      </Foot>
    </form>
  );
}
