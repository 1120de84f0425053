import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshVessels, useVessels } from "../../api/queries/allergens";
import { Foot, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { joined, told } from "./marked";

type Vessel = Schemas["VesselView"];

/** Vessels by name, what was last in them, and whether they were cleaned down since. */
export function Vessels() {
  const me = useMe();
  const q = useVessels();
  const [adding, setAdding] = useState(false);
  const vessels = q.data?.filter((v) => !v.retired) ?? [];
  return (
    <section aria-labelledby="vessels">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 id="vessels" className="phase text-lead">
          Vessels
        </h2>
        {me.may("maker") && (
          <button type="button" className="btn-quiet" onClick={() => setAdding(true)}>
            Add a vessel
          </button>
        )}
      </div>
      <div className="sheet">
        {q.data && vessels.length === 0 && (
          <p className="p-5 text-ink-2">
            Name the bowls, blenders and lines that products share. What was in them and was not cleaned down goes onto the next label as
            “may contain”; without this list nothing is assessed and nothing is printed.
          </p>
        )}
        {vessels.map((v) => (
          <VesselRow key={v.id} v={v} />
        ))}
      </div>
      {adding && <AddVessel onClose={() => setAdding(false)} />}
    </section>
  );
}

function VesselRow({ v }: { v: Vessel }) {
  const { shop, moment, num } = useFormats();
  const me = useMe();
  const client = useQueryClient();
  const [noting, setNoting] = useState<"used" | "cleaned" | "">("");
  const [retiring, setRetiring] = useState(false);
  const [changing, setChanging] = useState(false);
  const codes = Object.fromEntries(Object.entries(v.carries).map(([law, list]) => [law, list.map((c) => c.code)]));
  const words = shop.ticks.filter((t) => told(t, codes)).map((t) => t.word);
  const last = v.entries[0];
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-4 border-b border-rule-soft px-4 py-2.5 last:border-0">
      <div className="min-w-0">
        <b className="text-lead">{v.name}</b>{" "}
        {words.length > 0 ? (
          <span className="ml-1 font-semibold text-mustard-ink">carries {words.join(", ")}</span>
        ) : (
          <span className="ml-1 text-body text-leaf">{last ? "carries nothing" : "not used yet"}</span>
        )}
        <span className="block text-note text-ink-2">
          {v.greatest_g > 0
            ? `works from ${num(v.least_g)} to ${num(v.greatest_g)} g${v.residue_g > 0 ? `, ${num(v.residue_g)} g stay in it` : ""}`
            : "nobody said how much it works with: no loads are planned in it"}
        </span>
        {last && (
          <span className="block text-note text-ink-2">
            {last.kind === "cleaned" ? `cleaned down, ${last.what}` : `last in it: ${last.what}`}, {moment(last.at)}, {last.by}
          </span>
        )}
      </div>
      <div className="flex gap-1">
        <button type="button" className="btn-line" onClick={() => setNoting("cleaned")}>
          Cleaned down<span className="sr-only">: {v.name}</span>
        </button>
        <button type="button" className="btn-quiet" onClick={() => setNoting("used")}>
          Was in it<span className="sr-only">: {v.name}</span>
        </button>
        {me.may("maker") && (
          <button type="button" className="btn-quiet" onClick={() => setChanging(true)}>
            Change<span className="sr-only"> {v.name}</span>
          </button>
        )}
        {me.may("maker") && (
          <button type="button" className="btn-quiet" onClick={() => setRetiring(true)}>
            Retire<span className="sr-only"> {v.name}</span>
          </button>
        )}
      </div>
      {changing && <AddVessel of={v} onClose={() => setChanging(false)} />}
      {noting && <NoteTurn v={v} kind={noting} onClose={() => setNoting("")} />}
      <WhyDialog
        open={retiring}
        title={`Retire ${v.name}`}
        text="It is offered no more; what was in it stays on record."
        button="Retire it"
        act={async (why) => {
          const { carries: _c, entries: _e, ...vessel } = v;
          await take(api.PUT("/vessels/{id}", { params: { path: { id: v.id }, query: { why } }, body: { ...vessel, retired: true } }));
          await refreshVessels(client);
        }}
        onClose={() => setRetiring(false)}
      />
    </div>
  );
}

function NoteTurn({ v, kind, onClose }: { v: Vessel; kind: "used" | "cleaned"; onClose: () => void }) {
  const { shop } = useFormats();
  const client = useQueryClient();
  const [what, setWhat] = useState(kind === "cleaned" ? "hot water and detergent, rinsed, dried" : "");
  const [on, setOn] = useState<string[]>([]);
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <Modal open onClose={onClose} title={kind === "cleaned" ? `${v.name} was cleaned down` : `What was in ${v.name}?`}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          try {
            const ticks = shop.ticks.filter((t) => on.includes(t.word));
            await take(
              api.POST("/vessels/{id}/turns", {
                params: { path: { id: v.id } },
                body: { kind, what, allergens: kind === "used" ? joined({}, ticks) : undefined },
              }),
            );
            await refreshVessels(client);
            onClose();
          } catch (x) {
            setProblem(problemOf(x));
          }
        }}
      >
        <TextField
          label={kind === "cleaned" ? "How" : "What it was; a batch of yours is written down on its own page"}
          autoFocus
          value={what}
          onChange={(e) => setWhat(e.target.value)}
          error={fieldMessage(problem, "what")}
        />
        {kind === "used" && (
          <fieldset className="mt-3 grid grid-cols-3 gap-x-3">
            <legend className="text-note text-ink-2">with these in it</legend>
            {shop.ticks.map((t) => (
              <label key={t.word} className="flex min-h-7 items-center gap-2 text-body">
                <input
                  type="checkbox"
                  className="size-4.25 accent-cobalt"
                  checked={on.includes(t.word)}
                  onChange={(e) => setOn(e.target.checked ? [...on, t.word] : on.filter((w) => w !== t.word))}
                />
                {t.word}
              </label>
            ))}
          </fieldset>
        )}
        <Foot problem={problem} onLeave={onClose}>
          Write it down
        </Foot>
      </form>
    </Modal>
  );
}

/** A vessel's name and what it works with; a new one where none is given. */
function AddVessel({ of, onClose }: { of?: Vessel; onClose: () => void }) {
  const client = useQueryClient();
  const [name, setName] = useState(of?.name ?? "");
  const [least, setLeast] = useState<number | null>(of?.least_g ? of.least_g : null);
  const [greatest, setGreatest] = useState<number | null>(of?.greatest_g ? of.greatest_g : null);
  const [residue, setResidue] = useState<number | null>(of?.residue_g ? of.residue_g : null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const works = { least_g: least ?? 0, greatest_g: greatest ?? 0, residue_g: residue ?? 0 };
  return (
    <Modal open onClose={onClose} title={of ? of.name : "A vessel that products share"} width={460}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          try {
            if (of) {
              const { carries: _c, entries: _e, ...vessel } = of;
              await take(api.PUT("/vessels/{id}", { params: { path: { id: of.id }, query: {} }, body: { ...vessel, name, ...works } }));
            } else await take(api.POST("/vessels", { body: { name, ...works } }));
            await refreshVessels(client);
            onClose();
          } catch (x) {
            setProblem(problemOf(x));
          }
        }}
      >
        <TextField
          label="Its name, as it stands on it"
          autoFocus
          value={name}
          placeholder="Blender jug 2"
          onChange={(e) => setName(e.target.value)}
          error={fieldMessage(problem, "name")}
        />
        <div className="mt-3 grid grid-cols-3 gap-3">
          <NumberField
            label="Blades catch from"
            unit="g"
            allowEmpty
            value={least}
            onValue={setLeast}
            error={fieldMessage(problem, "least_g")}
          />
          <NumberField
            label="Takes at most"
            unit="g"
            allowEmpty
            value={greatest}
            onValue={setGreatest}
            error={fieldMessage(problem, "greatest_g")}
          />
          <NumberField
            label="Stays in it"
            unit="g"
            allowEmpty
            value={residue}
            onValue={setResidue}
            error={fieldMessage(problem, "residue_g")}
          />
        </div>
        <p className="mt-2 text-note text-ink-2">
          Weigh it empty, with what it just mixes well, and with as much as it takes; what stays when it is scraped out counts as lost.
        </p>
        <Foot problem={problem} onLeave={onClose}>
          {of ? "Keep it" : "Add it"}
        </Foot>
      </form>
    </Modal>
  );
}
