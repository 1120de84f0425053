import { Popover } from "radix-ui";
import type { KeyboardEvent, RefObject } from "react";
import type { Schemas } from "../../api/client";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { type DrawText, propose, sumOf } from "./draws";
import type { BatchData } from "./record";

type LineState = BatchData["record"]["lines"][number];
type Candidate = Schemas["LotCandidate"];

/** Which lots a line was weighed from: Enter takes what ends first, or the code is typed or scanned; several for one line. */
export function LotCells({
  l,
  shelf,
  draws,
  grams,
  closed,
  input,
  onDraws,
  onSave,
}: {
  l: LineState;
  shelf?: Schemas["LineLots"];
  draws: DrawText[];
  grams: number | null;
  closed: boolean;
  input: RefObject<HTMLInputElement | null>;
  onDraws: (d: DrawText[]) => void;
  onSave: () => void;
}) {
  const { num, day } = useFormats();
  const me = useMe();
  const lots = shelf?.lots ?? [];
  const first = lots.find((x) => x.why_not === "");
  const rows = draws.length > 0 ? draws : [{ code: "", grams: "", reason: "" }];
  const set = (i: number, part: Partial<DrawText>) => onDraws(rows.map((d, k) => (k === i ? { ...d, ...part } : d)));
  const known = (code: string) => lots.find((x) => x.code.toLowerCase() === code.trim().toLowerCase());
  const sum = sumOf(draws);
  const onKey = (e: KeyboardEvent, i: number) => {
    if (e.key === "+") {
      e.preventDefault();
      onDraws([...rows, { code: "", grams: "", reason: "" }]);
      return;
    }
    if (e.key !== "Enter") return;
    e.preventDefault();
    if (i === 0 && rows.every((d) => !d.code.trim()) && first && grams !== null && grams > 0) {
      onDraws(propose(grams, lots));
      return;
    }
    onSave();
  };
  if (closed)
    return (
      <>
        <td className="pl-3 text-body font-medium">{l.lot}</td>
        <Told l={l} />
      </>
    );
  return (
    <>
      <td className="py-1 pl-3">
        {rows.map((d, i) => {
          const lot = known(d.code);
          const label = i === 0 ? `Lot of ${l.name}` : `Lot ${i + 1} of ${l.name}`;
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows have no identity but their place
            <div key={i} className={i > 0 ? "mt-1" : ""}>
              <div className="flex items-center">
                <input
                  ref={i === 0 ? input : undefined}
                  aria-label={label}
                  className={`field h-8! ${d.code || !l.needs_lot ? "" : "border-mustard!"}`}
                  placeholder={i === 0 && first ? `↵ ${first.code}` : ""}
                  value={d.code}
                  onChange={(e) => set(i, { code: e.target.value })}
                  onKeyDown={(e) => onKey(e, i)}
                />
                {lots.length > 0 && <Choose label={label} lots={lots} onChoose={(x) => set(i, { code: x.code })} />}
              </div>
              {rows.length > 1 && (
                <label className="mt-1 flex items-center gap-1 text-note text-ink-2">
                  <input
                    aria-label={`Grams from ${d.code || `lot ${i + 1}`} of ${l.name}`}
                    inputMode="decimal"
                    className="field h-7! text-right"
                    value={d.grams}
                    onChange={(e) => set(i, { grams: e.target.value })}
                    onKeyDown={(e) => onKey(e, i)}
                  />
                  <span className="unit">g</span>
                </label>
              )}
              {lot && lot.why_not !== "" && (
                <div className="mt-1 text-note font-semibold text-beet">
                  {lot.why_not}
                  {me.may("owner") && (
                    <input
                      aria-label={`Why ${d.code} is used all the same`}
                      placeholder="an owner's reason to use it"
                      className="field mt-1 h-7! font-normal text-ink"
                      value={d.reason}
                      onChange={(e) => set(i, { reason: e.target.value })}
                      onKeyDown={(e) => onKey(e, i)}
                    />
                  )}
                </div>
              )}
            </div>
          );
        })}
        {sum !== null && grams !== null && sum !== grams && (
          <p className="mt-1 text-note font-semibold text-mustard-ink">
            {num(sum, 1)} of {num(grams, 1)} g
          </p>
        )}
      </td>
      {l.draws.length > 0 && draws.length === l.draws.length && draws.every((d, i) => d.code === l.draws[i].code) ? (
        <Told l={l} />
      ) : (
        <td className="pl-2 text-note text-ink-2">
          {draws.length === 0 && first && (
            <>
              <span className="block">{first.ends ? `ends ${day(first.ends)}` : "no end"}</span>
              <span className="block whitespace-nowrap">{num(first.reaches_g)} g are there</span>
            </>
          )}
          {draws.length === 0 && !first && l.needs_lot && shelf && <span className="text-mustard-ink">no lot is there</span>}
          {draws.length > 0 && rows.map((d) => known(d.code)?.ends && `ends ${day(known(d.code)?.ends ?? "")}`).find(Boolean)}
        </td>
      )}
    </>
  );
}

/** What the book says of the lots of a line. */
function Told({ l }: { l: LineState }) {
  const { day } = useFormats();
  return (
    <td className="pl-2 text-note leading-tight">
      {l.use_by && <span className="block font-medium">ends {day(l.use_by)}</span>}
      {l.needs_use_by && !l.use_by && l.actual_g != null && <span className="block font-semibold text-mustard-ink">no use-by</span>}
      {l.needs_kill_step && l.actual_g != null && (
        <span className={`block ${l.kill_step ? "text-leaf" : "font-semibold text-mustard-ink"}`}>
          {l.kill_step ? "✓ kill step" : "no kill step yet"}
        </span>
      )}
      {l.draws.some((d) => d.reason) && <span className="block text-beet">used by an owner's reason</span>}
      {l.barred.map((x) => (
        <span key={x} className="block font-semibold text-beet">
          {x}
        </span>
      ))}
    </td>
  );
}

/** All lots for the line, what is to be used first first; those that may not be used say why. */
function Choose({ label, lots, onChoose }: { label: string; lots: Candidate[]; onChoose: (c: Candidate) => void }) {
  const { num, day } = useFormats();
  return (
    <Popover.Root>
      <Popover.Trigger type="button" className="btn-quiet min-h-8! px-1.5!" aria-label={`${label}: choose`}>
        ▾
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={4} className="sheet z-60 w-107.5 p-2">
          <ul className="max-h-72 overflow-auto" aria-label={label}>
            {lots.map((c) => (
              <li key={c.id}>
                <Popover.Close asChild>
                  <button
                    type="button"
                    onClick={() => onChoose(c)}
                    className="grid min-h-9 w-full grid-cols-[84px_minmax(0,1fr)_78px_88px] items-baseline gap-2 rounded-sm px-2 py-1 text-left hover:bg-cobalt-tint focus-visible:bg-cobalt-tint"
                  >
                    <b>{c.code}</b>
                    <span className="min-w-0 text-note text-ink-2">
                      <span className="block truncate">{[c.name, c.text].filter(Boolean).join(", ")}</span>
                      {c.why_not && <span className="block font-semibold text-beet">{c.why_not}</span>}
                    </span>
                    <span className="text-note">{c.ends ? day(c.ends) : "no end"}</span>
                    <span className="text-right font-medium">
                      {num(c.reaches_g)}
                      <span className="unit">g</span>
                    </span>
                  </button>
                </Popover.Close>
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
