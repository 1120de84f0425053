import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { DateField } from "../../parts/date";
import { AreaField, Foot, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";
import { say } from "../../tongue/words";

type View = Schemas["LotView"];
export type NewLotEntry = Schemas["NewLotEntry"];
export type ActKind = "accepted" | "refused" | "held" | "freed" | "compared" | "counted" | "thrown" | "stated" | "roasted" | "thawed";

/** What each act asks, and how its button reads. */
const ASKS: Record<ActKind, { title: string; text?: string; button: string; look: string }> = {
  accepted: { title: "Accept", button: "Accept it", look: "btn" },
  refused: { title: "Refuse", text: "It goes back, or is thrown away; it is never used.", button: "Refuse it", look: "btn-beet" },
  held: {
    title: "Put on hold",
    text: "Nothing is taken of it, and what it went into waits for a decision.",
    button: "Put it on hold",
    look: "btn-beet",
  },
  freed: { title: "Take off hold", text: "It may be used again, and so may what it went into.", button: "Take it off hold", look: "btn" },
  compared: {
    title: "The allergens are looked at",
    text: "The list on the packet was held against the ingredient's allergens, and the pantry says what is in it now.",
    button: "It is so",
    look: "btn",
  },
  counted: { title: "Count", text: "How much is really there.", button: "Put the stock right", look: "btn" },
  thrown: { title: "Throw away", button: "Throw it away", look: "btn-beet" },
  stated: {
    title: "The supplier's statement",
    text: "It counts for all of the lot, also for what was used.",
    button: "Keep it",
    look: "btn",
  },
  roasted: {
    title: "Roasted here",
    text: "All that is left of it; it counts for what is taken from now on.",
    button: "Write the roast down",
    look: "btn",
  },
  thawed: {
    title: "Take out to thaw",
    text: "It keeps four days at most, less if less was left, and is never frozen again.",
    button: "It is out",
    look: "btn",
  },
};

/** One act on a lot, with what it asks. */
export function ActDialog({
  kind,
  v,
  act,
  onClose,
}: {
  kind: ActKind | null;
  v: View;
  act: (e: NewLotEntry) => Promise<void>;
  onClose: () => void;
}) {
  const { num } = useFormats();
  const [reason, setReason] = useState("");
  const [grams, setGrams] = useState<number | null>(null);
  const [celsius, setCelsius] = useState<number | null>(null);
  const [minutes, setMinutes] = useState<number | null>(null);
  const [day, setDay] = useState(today());
  const [problem, setProblem] = useState<Problem | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew each time it opens
  useEffect(() => {
    setReason("");
    setProblem(null);
    setGrams(kind === "thrown" ? Math.max(0, v.on_hand_g) : null);
    setDay(today());
  }, [kind]);
  if (!kind) return null;
  const asks = ASKS[kind];
  const entry = (): NewLotEntry => {
    switch (kind) {
      case "counted":
        return { kind, counted: { change_g: Number(((grams ?? 0) - v.on_hand_g).toFixed(3)), reason } };
      case "thrown":
        return { kind: "counted", counted: { change_g: -(grams ?? 0), thrown: true, reason } };
      case "stated":
        return { kind, stated: { statement: reason } };
      case "roasted":
        return { kind, roasted: { celsius: celsius ?? 0, minutes: minutes ?? 0 } };
      case "thawed":
        return { kind, thawed: { day } };
    }
    return { kind, [kind]: { reason } };
  };
  const send = async () => {
    try {
      await act(entry());
      onClose();
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  const said = (...fields: string[]) => fieldMessage(problem, ...fields);
  return (
    <Modal open onClose={onClose} title={`${asks.title}: ${v.code}`} width={460}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        {asks.text && <p className="mb-3 text-body text-ink-2">{asks.text}</p>}
        <div className="grid gap-3">
          {(kind === "counted" || kind === "thrown") && (
            <NumberField
              label={
                kind === "counted" ? `Really there (the book says ${num(v.on_hand_g, 1)} g)` : `Thrown away (of ${num(v.on_hand_g, 1)} g)`
              }
              unit="g"
              autoFocus
              value={grams}
              onValue={setGrams}
              error={said("counted.change_g")}
            />
          )}
          {kind === "roasted" && (
            <div className="grid grid-cols-2 gap-3">
              <NumberField
                label="Roasted at"
                unit="°C"
                reason={[90, 250]}
                autoFocus
                value={celsius}
                onValue={setCelsius}
                error={said("roasted")}
              />
              <NumberField label="for" unit="min" value={minutes} onValue={setMinutes} />
            </div>
          )}
          {kind === "thawed" && (
            <DateField label="Taken out on" max={today()} value={day} onValue={(day) => setDay(day)} error={said("thawed.day")} />
          )}
          {kind !== "roasted" && kind !== "thawed" && (
            <TextField
              label={
                kind === "stated"
                  ? "The statement: its number, its date, where it is kept"
                  : kind === "accepted" && !v.asks
                    ? "A word to it (may be empty)"
                    : "Why; it stays on record"
              }
              autoFocus={kind !== "counted" && kind !== "thrown"}
              value={reason}
              onChange={(e) => setReason(e.target.value)}
              error={said(`${kind === "thrown" ? "counted" : kind}.reason`, "stated.statement")}
              hint={kind === "accepted" && v.asks ? v.asks : undefined}
            />
          )}
        </div>
        <Foot problem={problem} onLeave={onClose} look={asks.look}>
          {asks.button}
        </Foot>
      </form>
    </Modal>
  );
}

/** A part of a lot becomes a frozen lot of its own. */
export function FreezeDialog({ open, v, onClose }: { open: boolean; v: View; onClose: () => void }) {
  const { num } = useFormats();
  const [grams, setGrams] = useState<number | null>(null);
  const [day, setDay] = useState(today());
  const [problem, setProblem] = useState<Problem | null>(null);
  const client = useQueryClient();
  const navigate = useNavigate();
  const send = async () => {
    try {
      const part = await take(api.POST("/lots/{id}/parts", { params: { path: { id: v.id } }, body: { grams: grams ?? 0, day } }));
      await refreshAll(client);
      onClose();
      navigate(`/lots/${part.id}`);
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  return (
    <Modal open={open} onClose={onClose} title={`Freeze a part of ${v.code}`} width={460}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        <p className="mb-3 text-body text-ink-2">
          The part gets a code and a sticker of its own. Its clock stops on the day it is frozen, at or below -18 °C, and goes on when it is
          thawed.
        </p>
        <div className="grid grid-cols-2 gap-3">
          <NumberField
            label={`How much (of ${num(v.on_hand_g, 1)} g)`}
            unit="g"
            autoFocus
            value={grams}
            onValue={setGrams}
            error={fieldMessage(problem, "grams")}
          />
          <DateField label="Frozen on" max={today()} value={day} onValue={(day) => setDay(day)} error={fieldMessage(problem, "day")} />
        </div>
        <Foot problem={problem} onLeave={onClose}>
          Freeze it
        </Foot>
      </form>
    </Modal>
  );
}

/** What is known of a lot as it should have been typed; what stood before stays on record. */
export function CorrectDialog({ v, act, onClose }: { v: View; act: (e: NewLotEntry) => Promise<void>; onClose: () => void }) {
  const x = v.record.came_in;
  const [c, setC] = useState<Schemas["LotCorrection"]>({
    ingredient: x.ingredient,
    supplier: x.supplier,
    day: x.day,
    text: x.text,
    pack: x.pack,
    ends: x.ends ?? "",
    end_kind: x.end_kind ?? "",
    cost: x.cost,
    arrival_c: x.arrival_c,
    limit_c: x.limit_c,
    statement: x.statement,
    strength: x.strength,
    ph: x.ph,
    list: x.list,
    note: x.note ?? "",
    why: "",
  });
  const [problem, setProblem] = useState<Problem | null>(null);
  const said = (f: string) => fieldMessage(problem, `corrected.${f}`);
  const text = (f: "supplier" | "text" | "pack" | "statement" | "note", label: string) => (
    <TextField label={label} value={c[f] ?? ""} onChange={(e) => setC({ ...c, [f]: e.target.value })} error={said(f)} />
  );
  const figure = (f: "cost" | "arrival_c" | "limit_c" | "strength" | "ph", label: string, unit?: string) => (
    <NumberField
      label={label}
      unit={unit}
      reason={unit === "°C" ? [-30, 30] : undefined}
      allowEmpty
      value={c[f] ?? null}
      onValue={(n) => setC({ ...c, [f]: n })}
      error={said(f)}
    />
  );
  return (
    <Modal open onClose={onClose} title={`Correct ${v.code}`} width={680}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          try {
            await act({ kind: "corrected", corrected: c });
            onClose();
          } catch (err) {
            setProblem(problemOf(err));
          }
        }}
      >
        <p className="mb-3 text-body text-ink-2">
          What was typed wrong. Batches that took of it are judged anew; what loosens anything takes an owner.
        </p>
        <div className="grid grid-cols-3 gap-3">
          {text("supplier", "Supplier")}
          {text("text", "Their lot")}
          {text("pack", "How much")}
          <DateField label="Came in on" value={c.day} onValue={(day) => setC({ ...c, day: day })} error={said("day")} />
          <DateField label="Ends" value={c.ends ?? ""} onValue={(day) => setC({ ...c, ends: day })} error={said("ends")} />
          <SelectField
            label="The end is a"
            value={c.end_kind ?? ""}
            onValue={(chosen) => setC({ ...c, end_kind: chosen })}
            options={[
              ["", "as usual for it"],
              ["use_by", say("use_by")],
              ["best_before", say("best_before")],
            ]}
            error={said("end_kind")}
          />
          {figure("cost", "Cost of all of it")}
          {figure("arrival_c", "On arrival", "°C")}
          {figure("limit_c", "at most", "°C")}
          {text("statement", "Kill-step statement")}
          {figure("strength", "Acid on the packet", "g/100 mL")}
          {figure("ph", "pH on the packet")}
        </div>
        <div className="mt-3 grid gap-3">
          <AreaField
            label="List of ingredients as printed"
            rows={2}
            value={c.list ?? ""}
            onChange={(e) => setC({ ...c, list: e.target.value })}
            error={said("list")}
          />
          <TextField
            label="What was wrong; it stays on record"
            value={c.why}
            onChange={(e) => setC({ ...c, why: e.target.value })}
            error={said("reason")}
          />
        </div>
        <Foot
          problem={problem && { ...problem, title: said("ingredient") || problem.title, fields: said("ingredient") ? [] : problem.fields }}
          onLeave={onClose}
        >
          Put it right
        </Foot>
      </form>
    </Modal>
  );
}
