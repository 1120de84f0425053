import * as z from "zod/mini";
import type { Schemas } from "../../api/client";
import { DateField } from "../../parts/date";
import { useEntry } from "../../parts/entry";
import { Foot, Modal, TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { neededIf, words } from "../../parts/schema";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";

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

/** Whether an act asks how much there is, or goes. */
const weighs = (kind: ActKind) => kind === "counted" || kind === "thrown";

const schemaOf = (kind: ActKind) =>
  z.object({
    reason: words,
    grams: neededIf(weighs(kind), "how many grams?"),
    celsius: neededIf(kind === "roasted", "how hot was it?"),
    minutes: neededIf(kind === "roasted", "for how long?"),
    day: words,
  });

/** What is sent for an act: only what it asks. */
function entryOf(kind: ActKind, onHand: number, t: z.infer<ReturnType<typeof schemaOf>>): NewLotEntry {
  switch (kind) {
    case "counted":
      return { kind, counted: { change_g: Number(((t.grams ?? 0) - onHand).toFixed(3)), reason: t.reason } };
    case "thrown":
      return { kind: "counted", counted: { change_g: -(t.grams ?? 0), thrown: true, reason: t.reason } };
    case "stated":
      return { kind, stated: { statement: t.reason } };
    case "roasted":
      return { kind, roasted: { celsius: t.celsius ?? 0, minutes: t.minutes ?? 0 } };
    case "thawed":
      return { kind, thawed: { day: t.day } };
  }
  return { kind, [kind]: { reason: t.reason } };
}

/** One act on a lot, with what it asks. */
export function ActDialog({
  kind,
  v,
  act,
  onClose,
}: {
  kind: ActKind;
  v: View;
  act: (e: NewLotEntry) => Promise<void>;
  onClose: () => void;
}) {
  const { num } = useFormats();
  const asks = ASKS[kind];
  const thrown = kind === "thrown";
  const grams = weighs(kind);
  const entry = useEntry({
    schema: schemaOf(kind),
    start: { reason: "", grams: thrown ? Math.max(0, v.on_hand_g) : null, celsius: null, minutes: null, day: today() },
    names: {
      reason: [`${thrown ? "counted" : kind}.reason`, "stated.statement"],
      grams: ["counted.change_g"],
      celsius: ["roasted"],
      day: ["thawed.day"],
    },
    send: async (typed) => {
      await act(entryOf(kind, v.on_hand_g, typed));
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={`${asks.title}: ${v.code}`} width={460}>
      <form {...entry.form}>
        {asks.text && <p className="mb-3 text-body text-ink-2">{asks.text}</p>}
        <div className="grid gap-3">
          {grams && (
            <NumberField
              label={thrown ? `Thrown away (of ${num(v.on_hand_g, 1)} g)` : `Really there (the book says ${num(v.on_hand_g, 1)} g)`}
              unit="g"
              autoFocus
              {...entry.pick("grams")}
            />
          )}
          {kind === "roasted" && (
            <div className="grid grid-cols-2 gap-3">
              <NumberField label="Roasted at" unit="°C" reason={ROAST} autoFocus {...entry.pick("celsius")} />
              <NumberField label="for" unit="min" {...entry.pick("minutes")} />
            </div>
          )}
          {kind === "thawed" && <DateField label="Taken out on" max={today()} {...entry.pick("day")} />}
          {kind !== "roasted" && kind !== "thawed" && (
            <TextField
              label={
                kind === "stated"
                  ? "The statement: its number, its date, where it is kept"
                  : kind === "accepted" && !v.asks
                    ? "A word to it (may be empty)"
                    : "Why; it stays on record"
              }
              autoFocus={!grams}
              hint={kind === "accepted" && v.asks ? v.asks : undefined}
              {...entry.text("reason")}
            />
          )}
        </div>
        <Foot problem={entry.rest()} onLeave={onClose} look={asks.look}>
          {asks.button}
        </Foot>
      </form>
    </Modal>
  );
}

/** A roast outside of these degrees Celsius is asked about. */
const ROAST = [90, 250] as const;
