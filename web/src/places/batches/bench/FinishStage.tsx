import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, problemOf, take } from "../../../api/client";
import { keys } from "../../../api/queries/keys";
import { useIngredients } from "../../../api/queries/pantry";
import { Select } from "../../../parts/select";
import { useFormats } from "../../../parts/shop";
import { useAct } from "../../../saving/act";
import { sentenceOf } from "../../../saving/outbox";
import { fixed, readQuantity } from "../../../tongue/quantity";
import { CoolingLog } from "./CoolStage";
import type { Desk, LoadState } from "./desk";
import { ErrandList } from "./Errands";

const PURPOSES = [
  ["thicker", "thicker"],
  ["thinner", "thinner"],
  ["salt", "salt"],
  ["acid", "acid"],
  ["heat", "heat"],
] as const;

/** All lines are in: steps, taste and texture, and the load is closed. */
export function FinishStage({ desk, load, onClosed }: { desk: Desk; load: LoadState; onClosed: () => void }) {
  const { num } = useFormats();
  const [adding, setAdding] = useState(false);
  const [wrong, setWrong] = useState("");
  const rest = load.errands.filter((e) => !e.first);
  const waits = desk.waiting.some((w) => !w.refused);
  const [close, busy] = useAct(async () => {
    const p = await desk.decide({ kind: "closed", closed: { load: load.no } });
    setWrong(p ? sentenceOf(p) : "");
    if (!p) onClosed();
  });
  return (
    <div>
      <h1 className="font-title figure leading-none font-semibold max-tablet:text-display">
        Everything is in: <span className="whitespace-nowrap">{num(load.bowl_g, 1)} g</span>
      </h1>
      {rest.length > 0 && !adding && (
        <div className="mt-4">
          <ErrandList desk={desk} load={load} list={rest} />
        </div>
      )}
      {desk.cooling.length > 0 && (
        <div className="mt-4 grid gap-3">
          {desk.cooling.map((c) => (
            <CoolingLog key={c.what} desk={desk} log={c} />
          ))}
        </div>
      )}
      {load.added.length > 0 && (
        <ul className="mt-4 text-title" aria-label="Added">
          {load.added.map((a, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: what was added stays in its order
            <li key={i}>
              <b className="font-semibold">{a.name || "leftover"}</b> {num(a.grams, 1)} g, for {a.purpose}{" "}
              <span className="text-ink-2">✓ {a.by}</span>
            </li>
          ))}
        </ul>
      )}
      {adding ? (
        <Addition batch={desk.batch} load={load.no} rehearsal={desk.rehearsal} decide={desk.decide} onDone={() => setAdding(false)} />
      ) : (
        <p className="mt-4 flex flex-wrap gap-2">
          <button type="button" className="bench-small" onClick={() => setAdding(true)}>
            Add for taste or texture
          </button>
          <TakeOut desk={desk} load={load} />
        </p>
      )}
      {wrong && (
        <p role="alert" className="mt-3 border-l-4 border-beet bg-beet-tint px-3 py-2 text-title font-semibold text-beet">
          {wrong}
        </p>
      )}
      {!adding && (
        <button
          type="button"
          className="mt-5 min-h-18 rounded-lg bg-cobalt px-8 text-display font-semibold text-white disabled:opacity-50"
          disabled={busy || waits}
          onClick={close}
        >
          Close load {load.no}
        </button>
      )}
      {!adding && load.missing.length > 0 && (
        <p className="mt-2 text-lead text-ink-2">
          Still open: {load.missing.slice(0, 3).join("; ")}
          {load.missing.length > 3 && `; ${load.missing.length - 3} more`}
        </p>
      )}
    </div>
  );
}

/** Something more goes in, for a reason; what it does to the pH is seen before. */
export function Addition({
  batch,
  load,
  rehearsal,
  decide,
  onDone,
}: {
  batch: number;
  load: number;
  rehearsal: boolean;
  decide: Desk["decide"];
  onDone: () => void;
}) {
  const { num } = useFormats();
  const pantry = useIngredients();
  const [purpose, setPurpose] = useState<string>("salt");
  const [ingredient, setIngredient] = useState("");
  const [typed, setTyped] = useState("");
  const [lot, setLot] = useState("");
  const [wrong, setWrong] = useState("");
  const r = readQuantity(typed, { measure: "mass" });
  const grams = r.kind === "value" && r.value > 0 ? r.value : 0;
  const look = useQuery({
    queryKey: keys.batches.addition(batch, load, ingredient, grams),
    queryFn: () => take(api.POST("/batches/{id}/addition", { params: { path: { id: batch } }, body: { load, ingredient, grams } })),
    enabled: !rehearsal && ingredient !== "" && grams > 0,
    retry: false,
  });
  const seen = look.data;
  const lots = (seen?.lots ?? []).filter((c) => c.why_not === "");
  const of = lot || lots[0]?.code || "";
  const water = pantry.data?.find((g) => g.id === ingredient)?.id.startsWith("water") ?? false;
  const [add, busy] = useAct(async () => {
    const p = await decide({
      kind: "added",
      added: { load, ingredient, grams, purpose, ...(of ? { draws: [{ code: of, grams }] } : {}) },
    });
    if (p) setWrong(sentenceOf(p));
    else onDone();
  });
  const options = [
    ["", "choose what goes in"] as const,
    ...(pantry.data ?? []).filter((g) => !g.retired).map((g) => [g.id, g.name] as const),
  ];
  return (
    <form
      className="mt-4 grid max-w-160 gap-3 rounded-lg border-2 border-rule-strong bg-white p-4"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <fieldset className="flex flex-wrap gap-2">
        <legend className="sr-only">What for</legend>
        {PURPOSES.map(([k, text]) => (
          <button
            key={k}
            type="button"
            aria-pressed={purpose === k}
            onClick={() => setPurpose(k)}
            className={`min-h-16 rounded-lg border-2 px-4 text-title font-semibold ${purpose === k ? "border-ink bg-ink text-white" : "border-rule-strong bg-white"}`}
          >
            {text}
          </button>
        ))}
      </fieldset>
      <Select aria-label="What goes in" value={ingredient} onValue={setIngredient} options={options} className="field h-14! text-title" />
      <div className="flex flex-wrap items-end gap-3">
        <label className="text-lead">
          Grams
          <input
            inputMode="decimal"
            className="field mt-1 block h-14! w-40! text-display font-semibold"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
        </label>
        {lots.length > 0 && (
          <div className="text-lead">
            Lot
            <Select
              aria-label="Lot"
              value={of}
              onValue={setLot}
              options={lots.map((c) => [c.code, `${c.code}, ${num(c.reaches_g)} g`] as const)}
              className="field mt-1 h-14! w-55! text-title"
            />
          </div>
        )}
      </div>
      {seen && (
        <p className={`border-l-4 py-1 pl-3 text-title ${seen.over ? "border-beet" : seen.raises ? "border-mustard" : "border-leaf"}`}>
          {seen.lacks.length > 0 ? (
            <b className="text-beet">It brings {seen.lacks.join(", ")}, which the labels do not name: make a new version.</b>
          ) : seen.after.high == null ? (
            "The pH cannot be estimated."
          ) : (
            <>
              Estimated pH at most <b>{fixed(seen.after.high, 2)}</b>
              {seen.before.high != null && `, before ${fixed(seen.before.high, 2)}`}
              {seen.over ? ". Over the target: read it before anything else." : seen.raises ? ". It goes up." : "."}
            </>
          )}
        </p>
      )}
      {(wrong || look.isError) && (
        <p role="alert" className="text-lead font-semibold text-beet">
          {wrong || problemOf(look.error).title}
        </p>
      )}
      <p className="flex gap-2">
        <button
          type="submit"
          className="min-h-16 rounded-lg bg-cobalt px-6 text-title font-semibold text-white disabled:opacity-50"
          disabled={busy || !ingredient || grams <= 0 || (!rehearsal && (!seen || seen.lacks.length > 0 || (!of && !water)))}
        >
          Add {grams > 0 ? `${num(grams, 1)} g` : "it"}
        </button>
        <button type="button" className="bench-small" onClick={onDone}>
          Nothing
        </button>
      </p>
    </form>
  );
}

const LOST = [
  ["spilled", "spilled"],
  ["dropped", "a piece dropped"],
  ["removed", "taken out"],
] as const;

/** A spill, a dropped piece, a part taken out: it leaves the bowl mixed as it is, and what is to come shrinks with it. */
export function TakeOut({ desk, load }: { desk: Desk; load: LoadState }) {
  const [open, setOpen] = useState(false);
  const [what, setWhat] = useState("spilled");
  const [typed, setTyped] = useState("");
  const [reason, setReason] = useState("");
  const [wrong, setWrong] = useState("");
  const [go, busy] = useAct(async () => {
    const r = readQuantity(typed, { measure: "mass" });
    if (r.kind !== "value" || r.value <= 0) {
      setWrong("how many grams?");
      return;
    }
    const p = await desk.decide({ kind: "taken_out", taken_out: { load: load.no, what, grams: r.value, reason: reason.trim() } });
    setWrong(p ? sentenceOf(p) : "");
    if (!p) setOpen(false);
  });
  if (load.bowl_g <= 0) return null;
  if (!open)
    return (
      <button type="button" className="bench-small" onClick={() => setOpen(true)}>
        Something got out of the bowl
      </button>
    );
  return (
    <form
      className="flex w-full flex-wrap items-center gap-2 rounded-lg border-2 border-rule-strong bg-white p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void go();
      }}
    >
      {LOST.map(([k, text]) => (
        <button
          key={k}
          type="button"
          aria-pressed={what === k}
          onClick={() => setWhat(k)}
          className={`min-h-16 rounded-lg border-2 px-3 text-lead ${what === k ? "border-ink bg-ink text-white" : "border-rule-strong bg-white"}`}
        >
          {text}
        </button>
      ))}
      <input
        aria-label="Grams that got out"
        inputMode="decimal"
        placeholder="g"
        className="field h-16! w-30! text-title"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
      />
      <input
        aria-label="What happened"
        placeholder="what happened"
        className="field h-16! w-60! text-lead"
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <button type="submit" className="bench-small" disabled={busy || reason.trim().length < 3 || !typed.trim()}>
        Write it down
      </button>
      <button type="button" className="bench-small" onClick={() => setOpen(false)}>
        Nothing
      </button>
      {wrong && (
        <p role="alert" className="w-full text-lead font-semibold text-beet">
          {wrong}
        </p>
      )}
    </form>
  );
}
