import { useState } from "react";
import { takesFocus } from "../../../parts/focus";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
import { sentenceOf } from "../../../saving/outbox";
import { readQuantity, shown } from "../../../tongue/quantity";
import type { BenchLine, Desk, LoadState } from "./desk";

/** What was held back: the rest, less, more, or none, by the tongue. */
export function TasteStage({ desk, load, line }: { desk: Desk; load: LoadState; line: BenchLine }) {
  const { num } = useFormats();
  const rest = Math.max(0, Number((line.target_g - line.in_g).toFixed(3)));
  const [other, setOther] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const [say, busy] = useAct(async (more: number) => {
    const p = await desk.decide({ kind: "tasted", tasted: { load: load.no, line: line.line, more_g: more } });
    setWrong(p ? sentenceOf(p) : "");
  });
  const typed = () => {
    const r = readQuantity(other ?? "", { measure: "mass" });
    if (r.kind === "value" && r.value >= 0) void say(r.value);
    else setWrong(r.kind === "wrong" || r.kind === "ask" ? r.why : "how many grams more?");
  };
  const big = "min-h-21 rounded-lg border-3 border-rule-strong bg-white px-5 text-left text-title font-semibold disabled:opacity-50";
  return (
    <div>
      <h1 className="font-title figure leading-none font-semibold max-tablet:text-display">Taste for {line.name.toLowerCase()}</h1>
      <p className="mt-1 text-title text-ink-2">
        A clean spoon each time. {num(line.in_g, 1)} g are in; {num(rest, 1)} g were held back.
      </p>
      <div className="mt-5 grid max-w-160 grid-cols-2 gap-3 max-tablet:grid-cols-1">
        <button type="button" className={`${big} border-cobalt! bg-cobalt! text-white`} disabled={busy} onClick={() => say(rest)}>
          The rest: {num(rest, 1)} g
        </button>
        <button type="button" className={big} disabled={busy} onClick={() => say(0)}>
          No more
        </button>
        <button type="button" className={big} disabled={busy} onClick={() => setOther(shown(Number((rest / 2).toFixed(1))))}>
          Less …
        </button>
        <button type="button" className={big} disabled={busy} onClick={() => setOther(shown(Number((rest * 1.5).toFixed(1))))}>
          More …
        </button>
      </div>
      {other !== null && (
        <form
          className="mt-4 flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            typed();
          }}
        >
          <label className="text-title">
            Grams more
            <input
              ref={takesFocus}
              inputMode="decimal"
              className="field mt-1 block h-16! w-50! text-display font-semibold"
              value={other}
              onChange={(e) => setOther(e.target.value)}
            />
          </label>
          <button type="submit" className="min-h-16 rounded-lg bg-cobalt px-6 text-title font-semibold text-white" disabled={busy}>
            That much
          </button>
        </form>
      )}
      {wrong && (
        <p role="alert" className="mt-3 border-l-4 border-beet bg-beet-tint px-3 py-2 text-title font-semibold text-beet">
          {wrong}
        </p>
      )}
    </div>
  );
}
