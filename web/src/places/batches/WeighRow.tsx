import { useEffect, useRef, useState } from "react";
import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { Segmented } from "../../parts/marks";
import { Ask } from "../../parts/number";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { useAct } from "../../saving/act";
import { useKept } from "../../saving/kept";
import { same } from "../../saving/merge";
import { type Reading, readQuantity, shown } from "../../tongue/quantity";
import { asDraws, type DrawText } from "./draws";
import { GroupRow } from "./GroupRow";
import { LotCells } from "./LotCells";
import type { BatchData, Write } from "./record";

type LineState = BatchData["record"]["lines"][number];
type LineLots = Schemas["LineLots"];

/** What stands in a row: as it is typed, over the entry that stood there when the typing began. */
interface Typed {
  grams: string;
  parts: Record<string, string>;
  draws: DrawText[];
  over?: number;
}

/** A row as the book has it. */
function fromBook(l: LineState): Typed {
  return {
    grams: l.actual_g == null ? "" : shown(l.actual_g),
    parts: Object.fromEntries((l.used ?? []).map((u) => [u.ingredient, shown(u.grams)])),
    draws: l.draws.map((d): DrawText => ({ code: d.code, grams: shown(d.grams), reason: d.reason ?? "" })),
    over: l.entry,
  };
}

/** A line of the weigh sheet: target, what was weighed, lots, and why it changes. */
export function WeighRow({
  batch,
  density,
  l,
  shelf,
  asking,
  n,
  heading,
  write,
  closed,
  onNext,
}: {
  batch: number;
  density: number;
  l: LineState;
  shelf?: LineLots;
  asking: boolean; // the lots are on their way: nothing is written down without having seen them
  n: number;
  heading: string;
  write: Write;
  closed: boolean;
  onNext: (from: HTMLInputElement) => void;
}) {
  const { num, beside } = useFormats();
  const book = fromBook(l);
  const [typed, setTyped, settle] = useKept<Typed | null>(`weigh ${batch} ${l.line}`, null, `The weighing of ${l.name}`);
  const { grams, parts, draws } = closed ? book : (typed ?? book); // what is decided shows what was written down
  const put = (c: Partial<Typed>) => {
    const next = { ...(typed ?? book), ...c };
    if (same(next, book)) settle();
    else setTyped(next);
  };
  // somebody wrote this line down while it was being typed here: both stand until one is chosen
  const clash = typed !== null && typed.over !== l.entry;
  const [problem, setProblem] = useState<Problem | null>(null);
  const [bad, setBad] = useState("");
  const [how, setHow] = useState<"more" | "slip">("more");
  const [slip, setSlip] = useState("");
  const me = useMe();
  const cell = useRef<HTMLInputElement>(null);
  const lotCell = useRef<HTMLInputElement>(null);
  const row = useRef<HTMLTableSectionElement>(null);
  const group = (l.any_of?.length ?? 0) > 1;
  const read = (text: string): Reading => readQuantity(text, { measure: "mass", density });
  const grammes = (text: string) => {
    const r = read(text);
    return r.kind === "value" ? r.value : null;
  };
  const used = Object.entries(parts)
    .map(([ingredient, text]) => ({ ingredient, grams: grammes(text) }))
    .filter((u): u is { ingredient: string; grams: number } => u.grams !== null && u.grams !== 0);
  const wrongPart = Object.values(parts).find((t) => t.trim() !== "" && grammes(t) === null);
  const sum = Number(used.reduce((s, u) => s + u.grams, 0).toFixed(3));
  const reading = read(grams);
  const value = group ? (used.length > 0 && wrongPart === undefined ? sum : null) : reading.kind === "value" ? reading.value : null;
  const again = l.actual_g != null && value !== null && value !== l.actual_g;
  const large = again && Math.abs(value - (l.actual_g ?? 0)) > 0.1 * (l.actual_g ?? 0);
  const [save, busy] = useAct(async (stay: boolean) => {
    if (clash || (l.needs_lot && asking)) return;
    if (value === null) {
      if (reading.kind !== "ask") setBad(wrongValue(group ? (wrongPart ?? "") : grams, group, read));
      return;
    }
    setBad("");
    const p = await write({
      kind: "weighing",
      weighing: {
        line: l.line,
        grams: value,
        used: group && draws.every((d) => !d.code.trim()) ? used : undefined,
        draws: asDraws(draws, value),
        correction: l.actual_g != null && (value === l.actual_g || how === "slip") ? true : undefined,
        slip: how === "slip" && slip.trim() ? slip : undefined,
        over: l.entry,
      },
    });
    setProblem(p);
    if (p) return;
    settle();
    if (!stay && cell.current) onNext(cell.current);
  });
  /** The row is left: what is typed is written down, unless it changes what is written: then the maker says why first. */
  const leave = () => {
    if (typed !== null && !closed && !again) void save(true);
  };
  const wait = l.needs_lot && asking && typed !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once the lots are there, a row that was left meanwhile is written down
  useEffect(() => {
    if (!wait && !row.current?.contains(document.activeElement)) leave();
  }, [wait]);
  const error =
    bad || (reading.kind === "wrong" && !group ? reading.why : "") || fieldMessage(problem, "weighing") || (problem ? problem.title : "");
  const onKeyDown = (e: React.KeyboardEvent) => {
    if (e.key === "Enter") {
      e.preventDefault();
      void save(false);
    }
  };
  /** From the grams on to the lot, where one is there to be named; Enter there writes the line down. */
  const onGrams = (e: React.KeyboardEvent) => {
    const proposed = l.needs_lot && (asking || shelf?.lots.some((x) => x.why_not === ""));
    if (e.key !== "Enter" || value === null || !proposed || draws.some((d) => d.code.trim())) return onKeyDown(e);
    e.preventDefault();
    lotCell.current?.focus();
  };
  const off = l.actual_g == null ? null : l.deviation_percent;
  return (
    <tbody
      ref={row}
      onBlur={(e) => {
        const to = e.relatedTarget;
        if (row.current?.contains(to) || to?.closest("[data-radix-popper-content-wrapper], [role=dialog]")) return;
        leave();
      }}
    >
      {heading && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} className="phase h-auto! pt-2 pb-1 text-body">
            {heading}
          </td>
        </tr>
      )}
      <tr className="focus-within:bg-cobalt-tint">
        <td className="text-center text-note text-ink-3">{n}</td>
        <td className="text-lead">
          {l.name}
          {group && <small className="ml-2 text-note text-cobalt">any of the group</small>}
          {l.hold_back_g > 0 && <small className="ml-2 text-note text-ink-3">hold back {num(l.hold_back_g, 1)} g</small>}
        </td>
        <td className="num text-lead font-medium whitespace-nowrap">
          {num(l.target_g, 1)}
          <span className="unit">g</span>
          {beside(l.target_g, "mass") && <small className="block text-note font-normal text-ink-2">{beside(l.target_g, "mass")}</small>}
        </td>
        <td className="num">
          <input
            ref={cell}
            data-grams
            aria-label={`Weighed grams of ${l.name}`}
            aria-invalid={!!error}
            autoComplete="off"
            className="field h-8! text-right text-lead font-medium"
            value={group ? (value === null ? "" : shown(value)) : grams}
            readOnly={group}
            disabled={closed}
            onChange={(e) => {
              setBad("");
              put({ grams: e.target.value });
            }}
            onKeyDown={onGrams}
          />
          {reading.kind === "value" && reading.foreign && <small className="block text-note text-ink-2">= {num(reading.value, 1)} g</small>}
        </td>
        <td className={`num ${off != null && !l.within_tolerance ? "font-semibold text-beet" : "text-ink-2"}`}>
          {off == null ? "" : `${off > 0 ? "+" : ""}${num(off, 1)} %${l.within_tolerance ? "" : " !"}`}
        </td>
        <LotCells
          l={l}
          shelf={shelf}
          draws={draws}
          grams={value}
          closed={closed}
          input={lotCell}
          onDraws={(d) => put({ draws: d })}
          onSave={() => void save(false)}
        />
        <td className="pr-2 text-right">
          {busy ? (
            <span className="text-note text-ink-2">storing …</span>
          ) : typed !== null && !closed ? (
            <button type="button" className="btn-quiet" disabled={clash} onClick={() => save(true)}>
              Save
            </button>
          ) : (
            l.actual_g != null && <span className="text-note text-leaf">✓ {l.by}</span>
          )}
        </td>
      </tr>
      {reading.kind === "ask" && !group && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} className="h-auto! pb-2">
            <Ask
              label={`Weighed grams of ${l.name}`}
              why={reading.why}
              options={reading.options}
              onPick={(o) => {
                put({ grams: shown(o.value) });
                cell.current?.focus();
              }}
            />
          </td>
        </tr>
      )}
      {clash && !closed && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} role="alert" className="h-auto! border-l-4 border-mustard bg-mustard-tint px-3 py-2 text-note">
            <b className="text-mustard-ink">Written down meanwhile by {l.by}:</b> {num(l.actual_g ?? 0, 1)} g
            {l.draws.length > 0 && `, ${l.draws.map((d) => d.code).join(", ")}`}. Typed here: {grams || "nothing"}
            {draws.some((d) => d.code) && `, ${draws.map((d) => d.code).join(", ")}`}, not stored.{" "}
            <button type="button" className="btn-quiet" onClick={settle}>
              Theirs stands
            </button>
            <button type="button" className="btn-quiet" onClick={() => put({ over: l.entry })}>
              Go on with mine
            </button>
          </td>
        </tr>
      )}
      {again && !closed && !clash && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} className="h-auto! py-2">
            <div className="flex flex-wrap items-center gap-3 text-note">
              <Segmented
                label={`Why the grams of ${l.name} change`}
                value={how}
                onChange={setHow}
                options={
                  [
                    ["more", "weighed anew"],
                    ["slip", "typed wrong"],
                  ] as const
                }
              />
              {how === "more" && <span>Counts as an addition: readings before it count no more.</span>}
              {how === "slip" && !large && (
                <span>Nothing went into the bowl; readings stand while the estimate moves by 0.05 at most.</span>
              )}
              {how === "slip" && large && !me.may("owner") && (
                <span className="font-semibold text-mustard-ink">
                  More than 10 % of the line: it counts as an addition unless an owner confirms the slip.
                </span>
              )}
              {how === "slip" && me.may("owner") && (
                <input
                  aria-label={`What happened in typing ${l.name}`}
                  placeholder={large ? "what happened; empty: it counts as an addition" : "what happened (may be empty)"}
                  className="field h-8! w-80!"
                  value={slip}
                  onChange={(e) => setSlip(e.target.value)}
                  onKeyDown={onKeyDown}
                />
              )}
            </div>
          </td>
        </tr>
      )}
      {group && <GroupRow l={l} parts={parts} closed={closed} onParts={(p) => put({ parts: p })} onKeyDown={onGrams} />}
      {error && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} role="alert" className="h-auto! bg-beet-tint py-1 text-note font-semibold text-beet">
            {error}
          </td>
        </tr>
      )}
    </tbody>
  );
}

/** Why a row cannot be written down as it stands. */
function wrongValue(text: string, group: boolean, read: (t: string) => Reading): string {
  const r = read(text);
  if (r.kind === "wrong" || r.kind === "ask") return r.why;
  return group ? "say which of the group went in, and how much" : "type the grams first";
}
