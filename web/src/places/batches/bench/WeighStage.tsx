import { useEffect, useLayoutEffect, useState } from "react";
import { takesFocus } from "../../../parts/focus";
import { useMe } from "../../../parts/session";
import { useFormats } from "../../../parts/shop";
import { readQuantity } from "../../../tongue/quantity";
import { dateWord } from "../../../tongue/words";
import { asDraws, propose } from "../draws";
import { type BenchLine, type Candidate, type Desk, type LoadState, stands } from "./desk";
import { decimals, stopAt } from "./pour";
import { type Live, whyNot } from "./useScale";

/** The big figure: its decimals are smaller, so that it fits a phone. */
export function Big({
  grams,
  places,
  tone = "",
  counts = true,
}: {
  grams: number | null;
  places: number;
  tone?: string;
  /** It is counted, not only shown. */
  counts?: boolean;
}) {
  const { num } = useFormats();
  if (grams === null) return <p className={`bench-number ${tone}`}>–</p>;
  const text = num(grams, places).replace("-", "−");
  const cut = places > 0 ? text.length - places - 1 : text.length;
  return (
    <p className={`bench-number ${tone}`} data-grams={counts ? grams : undefined}>
      {text.slice(0, cut)}
      {places > 0 && <span>{text.slice(cut)}</span>}
      <small>g</small>
    </p>
  );
}

/** Where the weight is on its way to the target, and the band that it may end in. */
function Band({ at, line }: { at: number; line: BenchLine }) {
  const { num } = useFormats();
  const full = line.now_g * 1.12 || 1;
  const x = (g: number) => Math.max(0, Math.min(520, (520 * g) / full));
  const inside = at >= line.low_g && at <= line.high_g;
  const over = at > line.high_g;
  const places = decimals(line.scale.division_g);
  const wide = Math.max(4, x(line.high_g) - x(line.low_g));
  const words = `${num(line.low_g, places)} to ${num(line.high_g, places)} g`;
  return (
    <svg viewBox="0 0 520 70" className="mt-3 w-full max-w-150" role="img" aria-label={`Band ${words}`}>
      <rect x="0" y="18" width="520" height="22" fill="#fff" stroke="var(--color-rule-strong)" />
      <rect
        x="0"
        y="18"
        width={x(at)}
        height="22"
        fill={over ? "var(--color-beet)" : inside ? "var(--color-leaf)" : "var(--color-cobalt)"}
      />
      <rect x={x(line.low_g)} y="10" width={wide} height="38" fill="var(--color-leaf)" opacity="0.25" />
      <path d={`M${x(line.now_g)} 8v42`} stroke="var(--color-leaf)" strokeWidth="3" />
      <text
        x={Math.min(x(line.now_g), 520 - words.length * 3.7)}
        y="64"
        textAnchor="middle"
        fontSize="15"
        fill="var(--color-leaf)"
        fontWeight="600"
      >
        {words}
      </text>
    </svg>
  );
}

/** Which lot it comes from: what ends first first; another is picked, or scanned. */
function LotPick({
  lots,
  picks,
  chosen,
  onPick,
  reason,
  onReason,
}: {
  lots: readonly Candidate[];
  /** The lots in the order in which they are used up, where the first does not reach. */
  picks: readonly string[];
  chosen: Candidate | undefined;
  onPick: (c: Candidate) => void;
  reason: string;
  onReason: (r: string) => void;
}) {
  const { num, day } = useFormats();
  const me = useMe();
  const [open, setOpen] = useState(false);
  const after = chosen && picks.length > 1 ? picks.slice(1) : [];
  const about = (c: Candidate) =>
    [c.ends && `${dateWord(c.end_kind ?? "")} ${day(c.ends)}`, `${num(c.reaches_g)} g there`].filter(Boolean).join(", ");
  return (
    <div className="mt-1 text-title text-ink-2">
      <button type="button" className="min-h-16 text-left underline decoration-dotted underline-offset-4" onClick={() => setOpen(!open)}>
        {chosen ? (
          <>
            lot <b className="font-semibold text-ink">{chosen.code}</b>, {about(chosen)}
            {after.length > 0 && (
              <>
                {" "}
                then <b className="font-semibold text-ink">{after.join(", ")}</b>
              </>
            )}
          </>
        ) : (
          <b className="font-semibold text-beet">scan its lot, or choose it</b>
        )}
      </button>
      {chosen?.why_not && (
        <div className="mt-1 border-l-4 border-beet bg-beet-tint px-3 py-2 text-lead" role="alert">
          <b className="text-beet">Not used:</b> {chosen.why_not}.{" "}
          {me.may("owner") ? (
            <input
              aria-label="Why it is used all the same"
              placeholder="why it is used all the same"
              className="field mt-1 h-11! text-lead"
              value={reason}
              onChange={(e) => onReason(e.target.value)}
            />
          ) : (
            "An owner may use it with a reason."
          )}
        </div>
      )}
      {open && (
        <ul className="mt-1 grid max-h-60 gap-1 overflow-auto" aria-label="Lots">
          {lots.map((c) => (
            <li key={c.id}>
              <button
                type="button"
                className={`min-h-16 w-full rounded-md border-2 px-3 text-left text-lead ${c === chosen ? "border-cobalt bg-cobalt-tint" : "border-rule-strong bg-white"}`}
                onClick={() => {
                  onPick(c);
                  setOpen(false);
                }}
              >
                <b className="font-semibold text-ink">{c.code}</b> {about(c)}
                {c.why_not && <span className="block text-body text-beet">{c.why_not}</span>}
              </button>
            </li>
          ))}
          {lots.length === 0 && <li className="text-beet">None is in the book. Take the delivery in first.</li>}
        </ul>
      )}
    </div>
  );
}

export interface Act {
  text: string;
  go: () => void;
  can: boolean;
}

/** One line: how much, from which lot, when to stop. */
export function WeighStage({
  desk,
  load,
  line,
  live,
  offer,
  scanned,
}: {
  desk: Desk;
  load: LoadState;
  line: BenchLine;
  live: Live;
  /** Says what the main key does now; null once there is nothing to take. */
  offer: (act: Act | null) => void;
  scanned: { code: string; at: number } | null;
}) {
  const { num } = useFormats();
  const [typing, setTyping] = useState(false);
  const [typed, setTyped] = useState("");
  const [wrong, setWrong] = useState("");
  const [asks, setAsks] = useState<"" | "unstable" | "short">("");
  const [reason, setReason] = useState("");
  const lots = desk.lotsFor(line.line);
  const [picked, setPicked] = useState<string>("");
  const [lotReason, setLotReason] = useState("");
  const [hindered, setHindered] = useState(false); // it was to be taken and could not
  const chosen =
    lots?.find((c) => c.code === picked) ?? lots?.find((c) => c.why_not === "" && c.reaches_g > 0) ?? lots?.find((c) => c.why_not === "");
  const wants = Math.max(0, line.now_g - line.in_g);
  // what ends first first, and on to the next lot where one does not reach; one that was picked carries all of it
  const picks = picked || !lots ? [] : propose(wants, lots).map((d) => d.code);
  const here = stands(desk, load.no, line);
  const places = decimals(line.scale.division_g);
  const device = desk.devices.find((d) => d.name === line.scale.name);
  const manualOnly = !device || (live.heard && !live.answers);

  useEffect(() => {
    if (!scanned || !lots) return;
    const plain = (s: string) => s.trim().toLowerCase();
    const hit = lots.find((c) => plain(c.code) === plain(scanned.code) || plain(c.text ?? "") === plain(scanned.code));
    if (hit) {
      setPicked(hit.code);
      setWrong("");
    } else setWrong(`“${scanned.code}” is no lot of ${line.name}.`);
  }, [scanned, lots, line.name]);

  const net = live.net ?? 0;
  const at = typing ? here.in : here.in + net;
  const left = line.now_g - here.in - (typing ? 0 : Math.max(0, net));
  const stop = stopAt(line.now_g - here.in, desk.lagOf(line.class), line.scale.division_g);
  const full = at >= line.low_g - 1e-9;
  const beyond = at > line.high_g + 1e-9;

  const capture = (grams: number, manual: boolean, more: { unstable?: boolean; enough?: boolean; reason?: string } = {}) => {
    if (lots && !chosen && lots.length >= 0 && line.state !== "done" && lots.length === 0) {
      setWrong("It has no lot in the book. Take the delivery in first.");
      return;
    }
    const draws =
      picks.length > 1 && lots
        ? asDraws(propose(grams, lots), grams)
        : chosen
          ? [{ code: chosen.code, grams, ...(chosen.why_not && lotReason.trim() ? { reason: lotReason.trim() } : {}) }]
          : undefined;
    desk.fact(
      {
        kind: "capture",
        client_at: new Date().toISOString(),
        capture: {
          load: load.no,
          line: line.line,
          grams,
          saw: line.last,
          ...(manual || live.shows === null ? { manual: true } : { scale: line.scale.name, reading_g: live.shows }),
          ...(!manual && live.pour.stopped !== null && live.pour.stopped >= 0 && live.pour.stopped <= grams
            ? { stopped_g: Number(live.pour.stopped.toFixed(3)) }
            : {}),
          ...(draws ? { draws } : {}),
          ...more,
        },
      },
      `${num(grams, places)} g of ${line.name}`,
    );
    setTyping(false);
    setTyped("");
    setAsks("");
    setReason("");
    setWrong("");
    setPicked("");
    setLotReason("");
  };
  const takeTyped = () => {
    const r = readQuantity(typed, { measure: "mass" });
    if (r.kind !== "value" || r.value <= 0) {
      setWrong(r.kind === "wrong" || r.kind === "ask" ? r.why : "type what the scale shows, in grams");
      return;
    }
    capture(Number(r.value.toFixed(3)), true);
  };
  const barred = !!chosen?.why_not && !lotReason.trim();
  const untared = live.shows !== null && live.net === null;
  const hinders = asks === "unstable" ? "" : whyNot(live, line.scale.name);
  const why = typing
    ? typed.trim() === ""
      ? "Type what the scale shows, in grams."
      : ""
    : barred
      ? "This lot is not used. Choose another one, or an owner says why."
      : hinders || (asks !== "" && reason.trim().length < 3 ? "Say why first." : "");
  const go = () => {
    setHindered(why !== "");
    if (why) return;
    if (typing) return takeTyped();
    if (asks === "unstable") return capture(net, false, { unstable: true, reason: reason.trim() });
    if (asks === "short") return capture(net, false, { enough: true, reason: reason.trim() });
    capture(net, false);
  };
  const below = !typing && net < 0;
  const told = (hindered && !typing && !untared && !below && why) || wrong; // those two stand above already
  useEffect(() => {
    if (!why) setHindered(false);
  }, [why]);
  const text = typing
    ? "Write it down"
    : asks === "unstable"
      ? "Take it unsettled"
      : untared
        ? "Tare first"
        : net < 0
          ? "Below zero"
          : net === 0
            ? "Pour"
            : !live.steady
              ? "settling …"
              : full
                ? `Take ${num(net, places)} g`
                : `Take ${num(net, places)} g, more to come`;
  useLayoutEffect(() => offer({ text, go, can: why === "" }));
  useLayoutEffect(() => () => offer(null), [offer]);
  return (
    <div className="min-w-0">
      <h1 className="font-title figure leading-none font-semibold max-tablet:text-display">{line.name}</h1>
      {lots && (
        <LotPick lots={lots} picks={picks} chosen={chosen} onPick={(c) => setPicked(c.code)} reason={lotReason} onReason={setLotReason} />
      )}
      {typing ? (
        <input
          ref={takesFocus}
          aria-label={`Grams of ${line.name}`}
          inputMode="decimal"
          className="bench-number mt-3 w-full max-w-130 border-b-4 border-cobalt bg-white px-2 outline-none"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              e.preventDefault();
              e.stopPropagation();
              takeTyped();
            }
            if (e.key === "Escape") setTyping(false);
          }}
        />
      ) : (
        <Big
          grams={untared ? live.shows : live.heard && live.net === null ? null : at}
          counts={!untared}
          places={places}
          tone={untared ? "text-ink-3 opacity-50" : beyond || net < 0 ? "text-beet" : full ? "text-leaf" : ""}
        />
      )}
      <p className="text-display text-ink-2 max-tablet:text-title">
        {left > 1e-9 ? (
          <>
            <b className="text-ink">{num(left, places)} g</b> to go of {num(line.now_g, places)} g
          </>
        ) : (
          <>
            of {num(line.now_g, places)} g{beyond && <b className="text-beet"> · {num(-left, places)} g over</b>}
          </>
        )}
        {line.held_g > 0 && <span className="block text-title">then {num(line.held_g, places)} g are held back until it is tasted</span>}
      </p>
      <Band at={at} line={line} />
      <Say live={live} urged={hindered} manualOnly={manualOnly} stop={stop} base={here.in} line={line} reached={full} />
      {told && (
        <p role="alert" className="mt-3 border-l-4 border-beet bg-beet-tint px-3 py-2 text-title font-semibold text-beet">
          {told}
        </p>
      )}
      {asks !== "" && (
        <label className="mt-3 block text-lead text-ink-2">
          {asks === "unstable" ? "The scale has not settled: why is it taken all the same?" : "Why does no more of it go in?"}
          <input
            className="field mt-1 h-12! max-w-130 text-lead"
            ref={takesFocus}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
        </label>
      )}
      <p className="mt-3 flex flex-wrap gap-2">
        <button type="button" className="bench-small" onClick={() => setTyping(!typing)}>
          {typing ? "Take it from the scale" : "Type the weight instead"}
        </button>
        {!typing && net > 0 && !live.steady && live.answers && (
          <button type="button" className="bench-small" onClick={() => setAsks(asks === "unstable" ? "" : "unstable")}>
            It does not settle
          </button>
        )}
        {!typing && net > 0 && live.steady && !full && (
          <button type="button" className="bench-small" onClick={() => setAsks(asks === "short" ? "" : "short")}>
            This is all of it
          </button>
        )}
        {line.optional && line.in_g === 0 && <LeaveOut desk={desk} load={load} line={line} />}
      </p>
    </div>
  );
}

/** The one thing to know now. */
function Say({
  live,
  urged,
  manualOnly,
  stop,
  base,
  line,
  reached,
}: {
  live: Live;
  /** A weight was to be taken all the same. */
  urged: boolean;
  manualOnly: boolean;
  stop: number | null;
  base: number;
  line: BenchLine;
  reached: boolean;
}) {
  const { num } = useFormats();
  const places = decimals(line.scale.division_g);
  const note = "mt-4 inline-block rounded-md border-2 px-3.5 py-1.5 text-display font-semibold max-tablet:text-title";
  if (live.over)
    return (
      <p className={`${note} border-beet bg-beet-tint text-beet`}>
        Too much on the scale: it takes {num(line.scale.capacity_g)} g. Take some off.
      </p>
    );
  if (manualOnly && live.heard)
    return <p className={`${note} border-mustard bg-mustard-tint text-mustard-ink`}>{line.scale.name} does not answer. Type the weight.</p>;
  const asks =
    live.shows !== null && live.net === null
      ? `Put the bowl on ${line.scale.name} as it is, then tare.`
      : (live.net ?? 0) < 0
        ? "The scale is below its zero. Put the bowl back, or tare."
        : "";
  if (asks)
    return (
      <p
        role={urged ? "alert" : undefined}
        className={`${note} ${urged ? "border-beet bg-beet-tint text-beet" : "border-mustard bg-mustard-tint text-mustard-ink"}`}
      >
        {asks}
      </p>
    );
  if (stop !== null && !reached)
    return (
      <p className={`${note} border-mustard bg-mustard-tint text-mustard-ink`}>
        Stop pouring at {num(stop + base, places)}: {line.class === "oil" ? "your oil" : "it"} runs on by{" "}
        {num(line.now_g - base - stop, places)} g
      </p>
    );
  if (line.doubt) return <p className={`${note} border-mustard bg-mustard-tint text-mustard-ink`}>{line.doubt}</p>;
  return null;
}

function LeaveOut({ desk, load, line }: { desk: Desk; load: LoadState; line: BenchLine }) {
  const me = useMe();
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const [wrong, setWrong] = useState("");
  if (!me.may("maker") && !desk.rehearsal) return null;
  if (!open)
    return (
      <button type="button" className="bench-small" onClick={() => setOpen(true)}>
        Leave it out
      </button>
    );
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={async (e) => {
        e.preventDefault();
        const p = await desk.decide({ kind: "left_out", left_out: { load: load.no, line: line.line, reason } });
        setWrong(p ? p.title : "");
      }}
    >
      <input
        className="field h-12! w-70! text-lead"
        ref={takesFocus}
        aria-label="Why it is left out"
        placeholder="why it is left out"
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <button type="submit" className="bench-small" disabled={reason.trim().length < 3}>
        Leave {line.name} out
      </button>
      {wrong && <span className="text-lead font-semibold text-beet">{wrong}</span>}
    </form>
  );
}
