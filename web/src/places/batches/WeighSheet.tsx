import { useEffect, useRef, useState } from "react";
import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { useBatchLots } from "../../api/queries/batches";
import { useIngredients } from "../../api/queries/pantry";
import { Segmented } from "../../parts/marks";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { readNumber } from "../../tongue/quantity";
import type { BatchData, Write } from "./Batch";
import { asDraws, type DrawText } from "./draws";
import { LotCells } from "./LotCells";
import { today } from "./time";

type LineState = BatchData["record"]["lines"][number];
type LineLots = Schemas["LineLots"];

/** Targets beside what was weighed, with deviation and lot: one row a line, saved with Enter. */
export function WeighSheet({ b, write, onDone }: { b: BatchData; write: Write; onDone: () => void }) {
  const { num, shop } = useFormats();
  const lots = useBatchLots(b.id);
  const table = useRef<HTMLTableElement>(null);
  const total = b.record.lines.reduce((s, l) => s + l.target_g, 0);
  const actual = b.record.lines.reduce((s, l) => s + (l.actual_g ?? 0), 0);
  const closed = b.record.state !== "hold" || b.made_on > today();
  const next = (from: HTMLInputElement) => {
    const cells = Array.from(table.current?.querySelectorAll<HTMLInputElement>("input[data-grams]") ?? []);
    const open = cells.slice(cells.indexOf(from) + 1)[0];
    open?.focus();
    open?.select();
  };
  return (
    <section className="sheet overflow-x-auto">
      <table ref={table} className="ledger w-full min-w-[700px] table-fixed">
        <thead>
          <tr>
            <th className="w-8" />
            <th>Into the bowl</th>
            <th className="num w-[86px]">target</th>
            <th className="num w-[98px]">weighed</th>
            <th className="num w-[58px]">off by</th>
            <th className="w-[118px] pl-3">lot</th>
            <th className="w-[122px] pl-2">ends, proof</th>
            <th className="w-[58px]" />
          </tr>
        </thead>
        <tbody>
          {b.record.lines.map((l, i) => (
            <Row
              key={l.line}
              l={l}
              shelf={lots.data?.find((x) => x.line === l.line)}
              asking={lots.isPending}
              n={i + 1}
              heading={l.phase && l.phase !== b.record.lines[i - 1]?.phase ? l.phase : ""}
              write={write}
              closed={closed}
              onNext={next}
            />
          ))}
        </tbody>
        <tfoot>
          <tr className="border-t-[3px] border-double border-rule-strong bg-paper-foot text-[16px] font-semibold">
            <td className="h-[46px]!" />
            <td>{b.jars_planned} jars planned</td>
            <td className="num whitespace-nowrap">
              {num(total, 1)}
              <span className="unit">g</span>
            </td>
            <td className="num whitespace-nowrap">
              {num(actual, 1)}
              <span className="unit">g</span>
            </td>
            <td colSpan={4} className="pr-3 text-right">
              {b.made_on > today() && <span className="text-[13.5px] font-normal text-ink-2">planned: weighed on its day</span>}
              {b.record.weighed && !closed && (
                <button type="button" className="btn" onClick={onDone}>
                  All weighed: fill the jars
                </button>
              )}
            </td>
          </tr>
        </tfoot>
      </table>
      <p className="px-4 py-2 text-[12.5px] text-ink-2">
        Weigh to {shop.scale_division_g} g; type and press Enter. Guards on before the machine runs; knives and blades stay out of the bowl.
        Wash down between products with different allergens. The lot in your hand counts: Enter takes the one that ends first, or type or
        scan its code.
      </p>
    </section>
  );
}

function Row({
  l,
  shelf,
  asking,
  n,
  heading,
  write,
  closed,
  onNext,
}: {
  l: LineState;
  shelf?: LineLots;
  asking: boolean; // the lots are on their way: nothing is written down without having seen them
  n: number;
  heading: string;
  write: Write;
  closed: boolean;
  onNext: (from: HTMLInputElement) => void;
}) {
  const { num } = useFormats();
  const [grams, setGrams] = useState(l.actual_g == null ? "" : String(l.actual_g));
  const before = l.draws.map((d): DrawText => ({ code: d.code, grams: String(d.grams), reason: d.reason ?? "" }));
  const [draws, setDraws] = useState<DrawText[]>(before);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was written down replaces what was typed, once
  useEffect(() => setDraws(before), [l.entry]);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [bad, setBad] = useState("");
  const [how, setHow] = useState<"more" | "slip">("more");
  const [slip, setSlip] = useState("");
  const me = useMe();
  const cell = useRef<HTMLInputElement>(null);
  const lotCell = useRef<HTMLInputElement>(null);
  const group = (l.any_of?.length ?? 0) > 1;
  const [parts, setParts] = useState<Record<string, string>>(() =>
    Object.fromEntries((l.used ?? []).map((u) => [u.ingredient, String(u.grams)])),
  );
  const used = Object.entries(parts)
    .map(([ingredient, text]) => ({ ingredient, grams: readNumber(text) }))
    .filter((u): u is { ingredient: string; grams: number } => u.grams !== null && u.grams !== 0);
  const sum = Number(used.reduce((s, u) => s + u.grams, 0).toFixed(3));
  const value = group ? (used.length > 0 ? sum : null) : readNumber(grams);
  const usedBefore = JSON.stringify((l.used ?? []).map((u) => [u.ingredient, u.grams]));
  const changed =
    (group && JSON.stringify(used.map((u) => [u.ingredient, u.grams])) !== usedBefore) ||
    value !== (l.actual_g ?? null) ||
    JSON.stringify(draws.filter((d) => d.code.trim())) !== JSON.stringify(before);
  const again = l.actual_g != null && value !== null && value !== l.actual_g;
  const large = again && Math.abs(value - (l.actual_g ?? 0)) > 0.1 * (l.actual_g ?? 0);
  const busy = useRef(false); // a second Enter, before the answer is there, writes nothing
  const save = async (stay = false) => {
    if (busy.current || (l.needs_lot && asking)) return;
    if (value === null) {
      setBad(group ? "say which of the group went in, and how much" : grams.trim() ? `“${grams}” is not a number` : "type the grams first");
      return;
    }
    setBad("");
    busy.current = true;
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
    busy.current = false;
    setProblem(p);
    if (!p && !stay && cell.current) onNext(cell.current);
  };
  const error = bad || fieldMessage(problem, "weighing") || (problem ? problem.title : "");
  const onKeyDown = (e: React.KeyboardEvent) => {
    if (e.key === "Enter") {
      e.preventDefault();
      void save();
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
    <>
      {heading && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} className="phase h-auto! pt-2 pb-1 text-[13.5px]">
            {heading}
          </td>
        </tr>
      )}
      <tr className="focus-within:bg-cobalt-tint">
        <td className="text-center text-[12px] text-ink-3">{n}</td>
        <td className="text-[15px]">
          {l.name}
          {group && <small className="ml-2 text-[12.5px] text-cobalt">any of the group</small>}
          {l.hold_back_g > 0 && <small className="ml-2 text-[12.5px] text-ink-3">hold back {num(l.hold_back_g, 1)} g</small>}
        </td>
        <td className="num text-[16px] font-medium whitespace-nowrap">
          {num(l.target_g, 1)}
          <span className="unit">g</span>
        </td>
        <td className="num">
          <input
            ref={cell}
            data-grams
            aria-label={`Weighed grams of ${l.name}`}
            aria-invalid={!!error}
            inputMode="decimal"
            className="field h-[32px]! text-right text-[16px] font-medium"
            value={group ? (value === null ? "" : String(value)) : grams}
            readOnly={group}
            disabled={closed}
            onChange={(e) => setGrams(e.target.value)}
            onKeyDown={onGrams}
          />
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
          onDraws={setDraws}
          onSave={() => void save()}
        />
        <td className="pr-2 text-right">
          {changed && !closed && (
            <button type="button" className="btn-quiet" onClick={() => save(true)}>
              Save
            </button>
          )}
          {!changed && l.actual_g != null && <span className="text-[12.5px] text-leaf">✓ {l.by}</span>}
        </td>
      </tr>
      {again && !closed && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} className="h-auto! py-2">
            <div className="flex flex-wrap items-center gap-3 text-[13px]">
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
                  className="field h-[32px]! w-[320px]!"
                  value={slip}
                  onChange={(e) => setSlip(e.target.value)}
                  onKeyDown={onKeyDown}
                />
              )}
            </div>
          </td>
        </tr>
      )}
      {group && <GroupRow l={l} parts={parts} closed={closed} onParts={setParts} onKeyDown={onGrams} />}
      {error && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={7} role="alert" className="h-auto! bg-beet-tint py-1 text-[12.5px] font-semibold text-beet">
            {error}
          </td>
        </tr>
      )}
    </>
  );
}

/** What was taken of a group: the label of this batch lists it. */
function GroupRow({
  l,
  parts,
  closed,
  onParts,
  onKeyDown,
}: {
  l: LineState;
  parts: Record<string, string>;
  closed: boolean;
  onParts: (p: Record<string, string>) => void;
  onKeyDown: (e: React.KeyboardEvent) => void;
}) {
  const pantry = useIngredients();
  const nameOf = (id: string) => pantry.data?.find((g) => g.id === id)?.name ?? id;
  return (
    <tr>
      <td className="h-auto!" />
      <td colSpan={7} className="h-auto! py-2">
        <div className="flex flex-wrap gap-x-5 gap-y-2">
          {(l.any_of ?? []).map((id) => (
            <label key={id} className="flex items-center gap-2 text-[13.5px]">
              {nameOf(id)}
              <input
                className="field h-[32px]! w-[84px]! text-right"
                inputMode="decimal"
                aria-label={`Grams of ${nameOf(id)} taken`}
                value={parts[id] ?? ""}
                disabled={closed}
                onChange={(e) => onParts({ ...parts, [id]: e.target.value })}
                onKeyDown={onKeyDown}
              />
              <span className="unit">g</span>
            </label>
          ))}
        </div>
      </td>
    </tr>
  );
}
