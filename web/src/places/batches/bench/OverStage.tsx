import { RadioGroup } from "radix-ui";
import { useState } from "react";
import { useMe } from "../../../parts/session";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
import { sentenceOf } from "../../../saving/outbox";
import { readQuantity, shown } from "../../../tongue/quantity";
import type { Desk, LoadState } from "./desk";

/** Too much is in the bowl: what each way out does, before one is taken. */
export function OverStage({ desk, load }: { desk: Desk; load: LoadState }) {
  const { num } = useFormats();
  const me = useMe();
  const over = load.over;
  const [way, setWay] = useState<"rebalance" | "accept" | "discard">("rebalance");
  const [reason, setReason] = useState("");
  const [portion, setPortion] = useState(shown(over?.portion_g ?? 0));
  const [wrong, setWrong] = useState("");
  const [choose, busy] = useAct(async () => {
    const r = readQuantity(portion, { measure: "mass" });
    const p = await desk.decide({
      kind: "choice",
      choice: {
        load: load.no,
        how: way,
        ...(reason.trim() ? { reason: reason.trim() } : {}),
        ...(way === "rebalance" && r.kind === "value" && r.value > 0 ? { portion_g: r.value } : {}),
      },
    });
    setWrong(p ? sentenceOf(p) : "");
  });
  if (!over) return null;
  const lines = load.lines.filter((l) => over.lines.includes(l.line));
  const percent = num((over.factor - 1) * 100, 1);
  const maker = me.may("maker") || desk.rehearsal;
  const ways = [
    ["rebalance", "Put the ratio right", over.rebalance_word, true],
    ["accept", "Leave it as it is", over.accept_word, maker],
    ["discard", "Give this load up", `${num(load.bowl_g)} g go to waste; load ${load.no} begins anew.`, maker],
  ] as const;
  return (
    <div>
      <h1 className="font-title figure leading-none font-semibold max-tablet:text-display">
        <span className="text-beet">{percent} % too much:</span> {lines.map((l) => l.name).join(", ")}
      </h1>
      <p className="mt-1 text-title text-ink-2">
        {lines.map((l) => `${num(l.in_g, 1)} g for ${num(l.target_g, 1)} g`).join("; ")}. Choose before anything else goes in.
      </p>
      <RadioGroup.Root
        className="mt-4 grid gap-2"
        aria-label="What becomes of it"
        value={way}
        onValueChange={(v) => setWay(v as typeof way)}
      >
        {ways.map(([key, title, says, may]) => (
          <RadioGroup.Item
            key={key}
            value={key}
            disabled={!may}
            className={`min-h-17 rounded-lg border-3 px-4 py-2 text-left disabled:opacity-50 ${way === key ? "border-cobalt bg-cobalt-tint" : "border-rule-strong bg-white"}`}
          >
            <b className="block text-title font-semibold">{title}</b>
            <span className="text-lead text-ink-2">
              {says}
              {!may && " A maker or an owner decides this."}
            </span>
          </RadioGroup.Item>
        ))}
      </RadioGroup.Root>
      {way === "rebalance" && (
        <>
          {over.top_up.length > 0 && (
            <p className="mt-3 text-title">
              <b>Topped up:</b> {over.top_up.map((t) => `${t.name} ${num(t.grams, 1)} g`).join(", ")}
            </p>
          )}
          {over.portion_g > 0 && (
            <label className="mt-3 block text-title">
              Mix taken out of the bowl, in grams
              <input
                className="field mt-1 h-14! max-w-65 text-display font-semibold"
                inputMode="decimal"
                value={portion}
                onChange={(e) => setPortion(e.target.value)}
              />
            </label>
          )}
        </>
      )}
      {way !== "rebalance" && (
        <label className="mt-3 block text-title">
          {way === "accept" ? "Why it may stay" : "Why the load is given up"}
          <input className="field mt-1 h-14! max-w-130 text-title" value={reason} onChange={(e) => setReason(e.target.value)} />
        </label>
      )}
      {wrong && (
        <p role="alert" className="mt-3 border-l-4 border-beet bg-beet-tint px-3 py-2 text-title font-semibold text-beet">
          {wrong}
        </p>
      )}
      <button
        type="button"
        disabled={busy || (way !== "rebalance" && reason.trim().length < 3)}
        className={`mt-4 min-h-17 rounded-lg px-8 text-display font-semibold disabled:opacity-50 ${way === "discard" ? "bg-beet text-white" : "bg-cobalt text-white"}`}
        onClick={choose}
      >
        {ways.find(([k]) => k === way)?.[1]}
      </button>
    </div>
  );
}
