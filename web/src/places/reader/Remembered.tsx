import { useState } from "react";
import { useDropWord, useWords } from "../../api/queries/reader";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { WhyDialog } from "../../parts/why";
import type { Line } from "./roles";
import { meaning } from "./words";

/** What in a line comes from the shop's own words, and a way to take it back. */
export function Remembered({ line }: { line: Line }) {
  const words = useWords(line.heard.length > 0).data ?? [];
  const { num, moment } = useFormats();
  const drop = useDropWord();
  const [going, setGoing] = useState(0);
  const told = words.filter((w) => line.heard.includes(w.id));
  if (line.as === "leave" || told.length === 0) return null;
  return (
    <>
      {told.map((w) => (
        <p key={w.id} className="text-note text-ink-2">
          remembered: {meaning(w, num)}
          <span className="text-ink-3">
            {" "}
            ({w.by}, {moment(w.at)})
          </span>
          <button
            type="button"
            aria-label={`Take back: ${meaning(w, num)}`}
            className="ml-2 min-h-6 font-semibold text-cobalt hover:underline"
            onClick={() => setGoing(w.id)}
          >
            take back
          </button>
        </p>
      ))}
      <WhyDialog
        open={going > 0}
        title="Take it back?"
        text="The reader asks again, here and in every recipe that rests on it. Drafts that were made stay as they are."
        button="Take it back"
        act={async (why) => {
          await drop(going, why);
          toast("Taken back. The reader asks about it again.");
        }}
        onClose={() => setGoing(0)}
      />
    </>
  );
}
