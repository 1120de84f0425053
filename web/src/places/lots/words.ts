import type { Schemas } from "../../api/client";

type Entry = Schemas["LotEntry"];

const because = (said: string, why: string | undefined) => (why ? `${said}: ${why}.` : `${said}.`);

/** An act on a lot as a sentence. */
export function actWords(e: Entry): string {
  switch (e.kind) {
    case "came_in":
      return `Came in: ${e.came_in?.pack} of ${e.came_in?.supplier}.`;
    case "corrected":
      return because("What is known of it was corrected", e.corrected?.reason);
    case "accepted":
      return because("Accepted", e.accepted?.reason);
    case "refused":
      return because("Refused", e.refused?.reason);
    case "held":
      return because("Put on hold", e.held?.reason);
    case "freed":
      return because("Taken off hold", e.freed?.reason);
    case "compared":
      return because("Its list was held against the allergens", e.compared?.reason);
    case "counted": {
      const g = e.counted?.change_g ?? 0;
      return because(
        e.counted?.thrown ? `${-g} g thrown away` : g > 0 ? `Counted: ${g} g more` : `Counted: ${-g} g less`,
        e.counted?.reason,
      );
    }
    case "stated":
      return `The supplier's statement of the kill step: ${e.stated?.statement}.`;
    case "roasted":
      return `Roasted at ${e.roasted?.celsius} °C for ${e.roasted?.minutes} min; it counts from here on.`;
    case "parted":
      return `${e.parted?.grams} g were frozen as ${e.parted?.code}.`;
    case "froze":
      return `${e.froze?.grams} g of ${e.froze?.code} were frozen.`;
    case "thawed":
      return `Taken out to thaw on ${e.thawed?.day}.`;
  }
  return e.kind;
}
