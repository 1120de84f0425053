import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import { useFormats } from "../../../parts/shop";
import { FULL } from "../../../saving/saver";
import { useAllUnsaved } from "../../../saving/unsaved";
import { say } from "../../../tongue/words";
import { CoolStage } from "./CoolStage";
import { type BenchLine, type Desk, firstErrands, type LoadState, nextLine, stands, zeroOf } from "./desk";
import { allTicked, FirstStage, Ring } from "./Errands";
import { FinishStage } from "./FinishStage";
import { OverStage } from "./OverStage";
import { decimals } from "./pour";
import { StandInPanel } from "./StandInPanel";
import { TakeOut } from "./TakeOut";
import { TasteStage } from "./TasteStage";
import { type Live, useScale, whyNoTare } from "./useScale";
import { Vessel } from "./Vessel";
import { type Act, WeighStage } from "./WeighStage";
import { Wedge } from "./wedge";

/** What the key that takes the weight says and whether it may be pressed, where there is nothing to weigh. */
const NO_KEY = { text: "", can: false };

/** The whole window at the bench: one thing at a time, readable from across the table. */
export function Screen({ desk }: { desk: Desk }) {
  const [no, setNo] = useState<number | null>(null);
  const [picked, setPicked] = useState<string | null>(null);
  const open = desk.loads.find((l) => !l.closed_by);
  const load = desk.loads.find((l) => l.no === no) ?? open ?? desk.loads[desk.loads.length - 1];
  const next = nextLine(desk, load);
  const waitsFirst = firstErrands(load).filter(() => load.bowl_g === 0 || !allTicked(desk, load, firstErrands(load)));
  const first = waitsFirst.length > 0 && !allTicked(desk, load, waitsFirst) ? waitsFirst : [];
  const over = load.over !== null;
  const line = over ? undefined : (load.lines.find((l) => l.line === picked) ?? next);
  const where = line ? stands(desk, load.no, line).state : "";
  // what lay cooked and cold on the shelf has nothing to log
  const ready = line && desk.lotsFor(line.line)?.find((c) => c.why_not === "" && c.reaches_g > 0)?.step === "";
  const cooling = line?.hot && !ready ? desk.cooling.find((c) => c.what === line.line && c.state === "none") : undefined;
  const cools = cooling && !desk.waiting.some((w) => !w.refused && w.entry.cooled?.what === cooling.what);
  const device = useMemo(
    () => (line ? desk.devices.find((d) => d.name === line.scale.name) : desk.devices.find((d) => d.kind === "scale")),
    [line, desk.devices],
  );
  const live = useScale(device, device ? zeroOf(desk, load, device.name) : null);
  const main = useRef<Act | null>(null);
  const [key, setKey] = useState(NO_KEY);
  const offer = useCallback((act: Act | null) => {
    main.current = act;
    const { text, can } = act ?? NO_KEY;
    setKey((k) => (k.text === text && k.can === can ? k : { text, can }));
  }, []);
  const [scanned, setScanned] = useState<{ code: string; at: number } | null>(null);
  const stage = desk.closed
    ? "closed"
    : load.closed_by
      ? "done"
      : first.length > 0
        ? "first"
        : over
          ? "over"
          : cools
            ? "cool"
            : where === "taste"
              ? "taste"
              : line
                ? "weigh"
                : "finish";
  const order = load.lines.map((l) => l.line);
  const back = () => {
    const at = line ? order.indexOf(line.line) : order.length;
    if (at > 0) setPicked(order[at - 1]);
  };
  const goOn = () => {
    setPicked(null);
    const active = document.activeElement;
    if (active instanceof HTMLElement && active.tagName === "BUTTON") active.blur();
  };
  const press = () => {
    if (!main.current) return;
    main.current.go(); // it takes the weight, or says why it cannot
    if (main.current.can) goOn();
  };
  const [untaken, setUntaken] = useState<{ grams: number; why: string } | null>(null);
  const tare = (all = false) => {
    if (!device || stage === "closed" || stage === "done") return;
    const why = whyNoTare(live, device.name);
    const grams = live.net ?? 0;
    if (why || live.shows === null || (grams > 2 * device.division_g && !all)) {
      setUntaken({ grams: why ? 0 : grams, why });
      return;
    }
    setUntaken(null);
    desk.fact(
      { kind: "tared", client_at: new Date().toISOString(), tared: { load: load.no, scale: device.name, reading_g: live.shows } },
      `the tare of ${device.name}`,
    );
  };
  const waits = !!untaken && (untaken.why !== "" ? whyNoTare(live, device?.name ?? "") !== "" : (live.net ?? 0) > 0);
  useKeys({ press, back, tare, scan: (code) => setScanned({ code, at: Date.now() }) });
  const refused = desk.waiting.find((w) => w.refused);
  return (
    <div className="flex h-full flex-col bg-glaze text-title" data-stage={stage}>
      <Header desk={desk} load={load} live={live} name={device?.name} onLoad={setNo} />
      <Ring desk={desk} />
      <div className="grid min-h-0 flex-1 grid-cols-[236px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)] max-tablet:grid-cols-1">
        <aside className="flex min-h-0 flex-col border-r border-paper-edge bg-paper max-tablet:hidden">
          <Lines desk={desk} load={load} now={stage === "weigh" || stage === "taste" ? line : undefined} onPick={setPicked} />
          {device?.stand_in && !desk.closed && <StandInPanel device={device} />}
        </aside>
        <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_190px] gap-4.5 overflow-auto px-7.5 py-5 max-tablet:grid-cols-1 max-tablet:px-4 max-tablet:py-3">
          <div className="min-w-0">
            {refused && (
              <div role="alert" className="mb-4 border-l-6 border-beet bg-beet-tint px-4 py-3 text-title">
                <b className="text-beet">Not written down: {refused.what}.</b> {refused.refused}
                <button type="button" className="bench-small mt-2 block" onClick={() => desk.letGo(refused.key)}>
                  I have seen it
                </button>
              </div>
            )}
            {waits && <Untaken {...untaken} onTare={() => tare(true)} onClose={() => setUntaken(null)} />}
            {stage === "closed" && <Closed desk={desk} />}
            {stage === "done" && <Done desk={desk} load={load} onNext={() => setNo(null)} />}
            {stage === "first" && <FirstStage desk={desk} load={load} list={first} />}
            {stage === "over" && <OverStage desk={desk} load={load} />}
            {stage === "cool" && cooling && <CoolStage desk={desk} log={cooling} />}
            {stage === "taste" && line && <TasteStage key={line.line} desk={desk} load={load} line={line} />}
            {stage === "weigh" && line && (
              <WeighStage
                key={`${load.no} ${line.line} ${line.in_g}`}
                desk={desk}
                load={load}
                line={line}
                live={live}
                offer={offer}
                scanned={scanned}
              />
            )}
            {stage === "finish" && <FinishStage desk={desk} load={load} onClosed={() => setNo(null)} />}
          </div>
          <Vessel
            desk={desk}
            load={load}
            pour={stage === "weigh" && line && live.net !== null && live.net > 0 ? { line: line.line, grams: live.net } : null}
          />
        </main>
      </div>
      {device?.stand_in && !desk.closed && (
        <div className="hidden max-tablet:block">
          <StandInPanel device={device} />
        </div>
      )}
      <footer className="grid grid-cols-[150px_150px_1fr_minmax(320px,auto)] gap-3 max-desk:grid-cols-[110px_110px_1fr_minmax(320px,auto)] px-5 pt-1 pb-4 max-tablet:grid-cols-[1fr_1fr_2fr] max-tablet:px-3">
        <button type="button" className="bench-key" onClick={back} disabled={stage === "closed" || stage === "first"}>
          Back
        </button>
        <button
          type="button"
          className={`bench-key ${stage === "weigh" && live.shows !== null && (live.net ?? -1) < 0 ? "bench-asked" : ""}`}
          onClick={() => tare()}
          onKeyDown={(e) => {
            if (e.key !== "Enter") return; // a pedal sends it, and it never tares
            e.preventDefault();
            press();
          }}
          disabled={live.shows === null || stage === "closed" || stage === "done"}
        >
          Tare
        </button>
        <span className="flex items-center max-tablet:hidden">
          {(stage === "weigh" || stage === "taste") && <TakeOut desk={desk} load={load} />}
        </span>
        {stage === "weigh" ? (
          <button type="button" className="bench-key bench-go" disabled={!key.can} onClick={press}>
            {key.text} <span aria-hidden>↵</span>
          </button>
        ) : (
          <Link to={desk.back} className="bench-key flex items-center justify-center">
            Leave the bench
          </Link>
        )}
      </footer>
    </div>
  );
}

/** A button that was touched lets go of the focus, so that the pedal's Enter takes the weight and does not press it again. */
function letGo(e: MouseEvent) {
  const at = document.activeElement;
  if (e.detail > 0 && at instanceof HTMLButtonElement && !at.closest("[role=dialog]")) at.blur();
}

/** Why the scale was not tared: it moves, or something on it was not taken yet. */
function Untaken({ grams, why, onTare, onClose }: { grams: number; why: string; onTare: () => void; onClose: () => void }) {
  const { num } = useFormats();
  return (
    <div role="alert" className="mb-4 border-l-6 border-mustard bg-mustard-tint px-4 py-3 text-title">
      {why || (
        <>
          <b>{num(grams, 1)} g on the scale were not taken.</b> Take them first if they are in the bowl.
        </>
      )}
      <span className="mt-2 flex flex-wrap gap-2">
        {!why && (
          <button type="button" className="bench-small" onClick={onTare}>
            Tare without them
          </button>
        )}
        <button type="button" className="bench-small" onClick={onClose}>
          {why ? "Close" : "Cancel"}
        </button>
      </span>
    </div>
  );
}

function Header({
  desk,
  load,
  live,
  name,
  onLoad,
}: {
  desk: Desk;
  load: LoadState;
  live: Live;
  name?: string;
  onLoad: (no: number) => void;
}) {
  const open = desk.waiting.filter((w) => !w.refused).length;
  const full = useAllUnsaved().some((u) => u.why === FULL.why);
  const scale = !name
    ? "no scale"
    : !live.heard
      ? `looking for ${name}`
      : !live.answers
        ? `${name} does not answer`
        : live.over
          ? `${name}: too much on it`
          : live.steady
            ? `${name} is steady`
            : `${name} is moving`;
  return (
    <header className="flex min-h-15 flex-wrap items-center gap-x-4.5 gap-y-1 bg-cobalt-deep px-5 py-1 text-white">
      <b className="font-title text-title font-semibold">{desk.title}</b>
      <span className="text-lead text-cobalt-pale">
        {desk.rehearsal ? "rehearsal" : `batch ${desk.code}`}
        {desk.loads.length === 1 && ", one load"}
      </span>
      {desk.loads.length > 1 && (
        <fieldset className="flex gap-1">
          <legend className="sr-only">Loads</legend>
          {desk.loads.map((l) => (
            <button
              key={l.no}
              type="button"
              aria-pressed={l.no === load.no}
              className={`min-h-11 rounded-md border px-3 text-lead ${l.no === load.no ? "border-white bg-white font-semibold text-cobalt-deep" : "border-cobalt-pale text-white"}`}
              onClick={() => onLoad(l.no)}
            >
              load {l.no}
              {l.closed_by ? " ✓" : ""}
            </button>
          ))}
        </fieldset>
      )}
      <Link to="/devices" className="ml-auto text-lead text-white hover:underline">
        <span role="status">{scale}</span>
      </Link>
      <span
        data-safe={open === 0}
        className={`rounded-sm border-2 px-2 py-0.5 text-lead font-semibold ${open === 0 ? "border-leaf-tint bg-leaf text-white" : "border-mustard bg-mustard-tint text-mustard-ink"}`}
        role="status"
      >
        {desk.rehearsal
          ? "nothing is written"
          : open === 0
            ? "all is safe"
            : `${open} kept here, not safe yet${full ? ": the disk is full" : ""}`}
      </span>
    </header>
  );
}

const MARK: Record<string, string> = { done: "✓", over: "!", taste: "taste", left_out: "left out", open: "" };

function Lines({ desk, load, now, onPick }: { desk: Desk; load: LoadState; now?: BenchLine; onPick: (line: string) => void }) {
  const { num } = useFormats();
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    list.current?.querySelector("[aria-current]")?.scrollIntoView({ block: "nearest" });
  });
  return (
    <ol ref={list} className="min-h-0 flex-1 overflow-auto py-2 text-lead" aria-label="Lines of this load">
      {load.lines.map((l, i) => {
        const s = stands(desk, load.no, l);
        const on = now?.line === l.line;
        const done = s.state === "done" || s.state === "left_out";
        return (
          <li key={l.line}>
            <button
              type="button"
              aria-current={on ? "step" : undefined}
              onClick={() => onPick(l.line)}
              className={`grid min-h-10 w-full grid-cols-[26px_1fr_auto] items-baseline py-2 pr-3 pl-2 text-left leading-tight ${on ? "border-l-6 border-cobalt bg-cobalt-tint pl-0.5 font-semibold text-ink" : done ? "text-leaf" : "text-ink-2"}`}
            >
              <span className={s.state === "over" ? "font-semibold text-beet" : ""}>{done && !on ? "✓" : i + 1}</span>
              <span className="pr-2">
                {l.name}
                {!s.safe && !desk.rehearsal && (
                  <span className="block text-note font-semibold text-mustard-ink">kept here, not safe yet</span>
                )}
                {s.state === "taste" && <span className="block text-note text-mustard-ink">{MARK.taste} for the rest</span>}
                {s.state === "left_out" && <span className="block text-note">left out</span>}
              </span>
              <span className="text-right">{num(s.in > 0 ? s.in : l.now_g, decimals(l.scale.division_g))}</span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}

function Done({ desk, load, onNext }: { desk: Desk; load: LoadState; onNext: () => void }) {
  const { num } = useFormats();
  const all = desk.loads.every((l) => l.closed_by);
  return (
    <div>
      <h1 className="font-title figure leading-none font-semibold">
        Load {load.no} is closed: {num(load.bowl_g, 1)} g
      </h1>
      <p className="mt-2 text-title text-ink-2">
        By {load.closed_by}. {all ? `The batch fills about ${say("jars", { count: desk.expected })}.` : ""}
      </p>
      {all ? (
        <Link
          to={desk.back}
          className="mt-5 inline-flex min-h-18 items-center rounded-lg bg-cobalt px-8 text-display font-semibold text-white"
        >
          {desk.rehearsal ? "What was off" : "Fill the jars"}
        </Link>
      ) : (
        <button type="button" className="mt-5 min-h-18 rounded-lg bg-cobalt px-8 text-display font-semibold text-white" onClick={onNext}>
          On to the next load
        </button>
      )}
    </div>
  );
}

function Closed({ desk }: { desk: Desk }) {
  return (
    <div>
      <h1 className="font-title figure leading-none font-semibold">Nothing is weighed here now</h1>
      <p className="mt-2 text-title text-ink-2">{desk.closed}</p>
    </div>
  );
}

/** Keys of the bench: Enter, or a pedal that sends it; Backspace; T; and a scanner that types. Fields keep their own keys. */
function useKeys(acts: { press: () => void; back: () => void; tare: () => void; scan: (code: string) => void }) {
  const latest = useRef(acts);
  latest.current = acts;
  useEffect(() => {
    const wedge = new Wedge((h) => {
      const a = latest.current;
      if (h.kind === "scan") a.scan(h.code);
      else if (h.kind === "key" && h.key === "Enter") a.press();
      else if (h.kind === "key" && h.key === "Backspace") a.back();
      else if (h.kind === "key" && h.key.toLowerCase() === "t") a.tare();
    });
    const onKey = (e: KeyboardEvent) => {
      const at = e.target instanceof HTMLElement ? e.target : null;
      if (e.ctrlKey || e.metaKey || e.altKey || at?.closest("input, textarea, [role=dialog], [role=listbox], select")) return;
      if (e.key === "Enter" && at?.closest("button, a")) return;
      if (["Tab", "Shift", "Escape", " ", "ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight", "/", "?"].includes(e.key)) return;
      if (wedge.key(e.key, e.timeStamp)) e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    window.addEventListener("click", letGo);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.removeEventListener("click", letGo);
      wedge.close();
    };
  }, []);
}
