import { type ClipboardEvent, Fragment, useEffect, useState } from "react";
import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { useFormulas } from "../../api/queries/formulas";
import { useIngredients } from "../../api/queries/pantry";
import { AreaField } from "../../parts/form";
import { MakeUpBar, MakeUpLegend } from "../../parts/makeup";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { useWidth } from "../../parts/width";
import { useUnsaved } from "../../saving/unsaved";
import { readQuantity } from "../../tongue/quantity";
import { say } from "../../tongue/words";
import { AddLine, type Choice, GramCell, LineMenu, places } from "./gridParts";
import { LineDetails } from "./LineDetails";
import { readRows, whyNone } from "./pasted";
import { SwapDialog } from "./SwapDialog";
import { type Edit, type Line, lineID, type Version } from "./useDraft";

type PanelData = Schemas["Panel"];

interface Props {
  version: Version;
  panel: PanelData;
  problem: Problem | null;
  locked: boolean;
  edit: Edit;
  footer: React.ReactNode;
}

/** All that a line may be: ingredients in use, and locked versions of other formulas. */
function useChoices(version: Version): Choice[] {
  const ingredients = useIngredients();
  const formulas = useFormulas();
  const components = (formulas.data ?? [])
    .filter((f) => f.locked > 0 && !f.retired && f.id !== version.formula)
    .map((f) => ({
      key: `formula:${f.id}`,
      name: f.name,
      called: [],
      hint: `component, version ${f.locked}`,
      density: 0,
      line: { component: { formula: f.id, version: f.locked } },
    }));
  const plain = (ingredients.data ?? [])
    .filter((g) => !g.retired && g.role !== "packaging")
    .map((g) => ({
      key: g.id,
      name: g.name,
      called: g.called,
      hint: g.per_kg == null ? "no price" : "",
      density: g.density_g_ml,
      line: { ingredient: g.id },
    }));
  return [...components, ...plain];
}

const COLS = "grid grid-cols-[30px_minmax(0,1fr)_112px_74px_150px_58px_34px] items-center";
/** With ounces beside the grams, the make-up is drawn smaller. */
const COLS_BESIDE = "grid grid-cols-[30px_minmax(0,1fr)_104px_88px_66px_104px_56px_34px] items-center";
/** On a tablet. */
const COLS_NARROW = "grid grid-cols-[24px_minmax(0,1fr)_96px_70px_88px_50px_28px] items-center";
const COLS_NARROW_BESIDE = "grid grid-cols-[24px_minmax(0,1fr)_92px_80px_66px_58px_50px_28px] items-center";

export function Grid({ version, panel, problem, locked, edit, footer }: Props) {
  const { num, money, tongue, beside } = useFormats();
  const [table, wide] = useWidth<HTMLElement>(680);
  const narrow = wide < 620;
  const [cols, bar] = tongue.beside ? (narrow ? [COLS_NARROW_BESIDE, 52] : [COLS_BESIDE, 98]) : narrow ? [COLS_NARROW, 82] : [COLS, 144];
  const choices = useChoices(version);
  const [details, setDetails] = useState<string | null>(null);
  const [swap, setSwap] = useState<string | null>(null);
  const [focusLine, setFocusLine] = useState<string | null>(null);
  const total = panel.grams;
  const widest = Math.max(1, ...panel.lines.map((l) => l.grams));
  const scale = (bar - 4) / widest;
  const byID = new Map(panel.lines.map((l) => [l.id, l]));
  const nameOf = (l: Line) =>
    byID.get(l.id)?.name ??
    choices.find((c) => (l.component ? c.key === `formula:${l.component.formula}` : c.key === l.ingredient))?.name ??
    l.ingredient ??
    "component";

  useEffect(() => {
    if (!focusLine) return;
    const cell = table.current?.querySelector<HTMLInputElement>(`input[data-line="${focusLine}"]`);
    if (cell) {
      cell.focus();
      cell.select();
      setFocusLine(null);
    }
  });

  const change = (id: string, what: string, f: (l: Line) => Line, key?: string) =>
    edit(what, (v) => ({ ...v, lines: v.lines.map((l) => (l.id === id ? f(l) : l)) }), key);
  // All keys typed into one cell are one edit, from what stood there before.
  const setGrams = (l: Line, grams: number, from: number) =>
    change(
      l.id,
      grams === from ? `${nameOf(l)} as it was` : `${nameOf(l)} ${num(from, 1)} to ${num(grams, 1)} g`,
      (x) => ({ ...x, grams }),
      `${l.id} from ${from}`,
    );
  const move = (id: string, by: number) =>
    edit("order", (v) => {
      const lines = [...v.lines];
      const i = lines.findIndex((l) => l.id === id);
      const j = i + by;
      if (j < 0 || j >= lines.length) return v;
      const [line] = lines.splice(i, 1);
      lines.splice(j, 0, { ...line, phase: lines[by > 0 ? j - 1 : j]?.phase ?? line.phase });
      return { ...v, lines };
    });
  const step = (from: HTMLElement, by: number) => {
    const cells = Array.from(table.current?.querySelectorAll<HTMLInputElement>("[data-cell]") ?? []);
    const next = cells[cells.indexOf(from as HTMLInputElement) + by];
    next?.focus();
    if (next instanceof HTMLInputElement) next.select();
  };
  const pasteColumn = (at: number, e: ClipboardEvent) => {
    const rows = e.clipboardData.getData("text").replace(/\s+$/, "").split(/\r?\n/);
    if (rows.length < 2) return;
    e.preventDefault();
    const below = version.lines.slice(at);
    const read = rows.map((r, i) => readQuantity(r.split("\t").pop() ?? "", { measure: "mass", density: below[i] && densityOf(below[i]) }));
    const grams = read.map((r) => (r.kind === "value" ? r.value : null));
    if (rows.length > below.length) {
      const lines = below.length === 1 ? "one line stands" : `${below.length} lines stand`;
      setUnread({ text: rows.join("\n"), why: `The column has ${rows.length} rows and ${lines} from here on: none of it was taken` });
      return;
    }
    if (grams.includes(null)) {
      setUnread({ text: rows.join("\n"), why: whyNone(read) });
      return;
    }
    edit(`${rows.length} lines pasted`, (v) => ({
      ...v,
      lines: v.lines.map((l, i) => (i >= at ? { ...l, grams: grams[i - at] ?? l.grams } : l)),
    }));
  };
  const densityOf = (l: Line) => (l.ingredient ? (choices.find((c) => c.key === l.ingredient)?.density ?? 0) : 0);
  const [unread, setUnread] = useState<{ text: string; why: string } | null>(null);
  useUnsaved(unread ? "Pasted rows" : "");
  const add = (c: Choice, grams = 0) => {
    const id = lineID();
    edit(`${c.name} added`, (v) => ({ ...v, lines: [...v.lines, { id, ...c.line, grams, phase: v.lines.at(-1)?.phase ?? "" }] }));
    setFocusLine(id);
  };
  const pasteLines = (text: string) => {
    const { found, left } = readRows(text, choices);
    if (found.length > 0)
      edit(`${found.length} lines pasted`, (v) => ({
        ...v,
        lines: [...v.lines, ...found.map((f) => ({ id: lineID(), ...f.choice.line, grams: f.grams, phase: v.lines.at(-1)?.phase ?? "" }))],
      }));
    setUnread(left.length > 0 ? { text: left.join("\n"), why: "Put each right as “ingredient, tab, grams” and paste it again" } : null);
  };
  const current = version.lines.find((l) => l.id === details);
  const swapped = version.lines.find((l) => l.id === swap);

  return (
    <section ref={table} className="sheet flex min-h-0 flex-1 flex-col" aria-label="Lines of the formula">
      <div className={`${cols} h-8 shrink-0 border-b border-rule text-note text-ink-3`} aria-hidden="true">
        <div />
        <div>Into the bowl</div>
        <div className="pr-3.5 text-right">grams</div>
        {tongue.beside && <div className="pr-3.5 text-right">ounces</div>}
        <div className="pr-3.5 text-right">percent</div>
        <div className="truncate pl-1.5">{narrow ? "made of" : "made of, to scale"}</div>
        <div className="text-right">per jar</div>
        <div />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {version.lines.map((l, i) => {
          const row = byID.get(l.id);
          const error = fieldMessage(problem, `lines[${i}]`);
          const heading = l.phase && l.phase !== version.lines[i - 1]?.phase;
          return (
            <Fragment key={l.id}>
              {heading && <div className="phase border-b border-rule pt-2 pb-1 pl-7.5 text-body">{l.phase}</div>}
              <div className={`${cols} h-9.5 border-b border-rule-soft text-lead focus-within:bg-cobalt-tint`}>
                <div className="text-center text-note text-ink-3">{i + 1}</div>
                <div className="flex min-w-0 items-baseline">
                  <span className="max-w-full shrink-0 truncate" title={nameOf(l)}>
                    {nameOf(l)}
                    {l.quid && (
                      <small className="ml-2 text-note text-cobalt" title="Named on the label: GB prints its percent">
                        named
                      </small>
                    )}
                  </span>
                  {(l.any_of?.length ?? 0) > 1 && (
                    <small className="ml-2 shrink-0 text-note text-cobalt" title="Each batch records which of the group it was">
                      or {(l.any_of?.length ?? 0) - 1} other{(l.any_of?.length ?? 0) > 2 ? "s" : ""}
                    </small>
                  )}
                  {!!l.scale_exponent && l.scale_exponent < 1 && <small className="ml-2 shrink-0 text-note text-ink-3">scales less</small>}
                  {l.words && (
                    <small className="ml-2 min-w-0 shrink truncate font-title text-note text-ink-3 italic" title={l.words}>
                      “{l.words}”
                    </small>
                  )}
                  {l.component && (
                    <small className={`ml-2 text-note text-ink-3 ${narrow ? "min-w-0 truncate" : "shrink-0"}`}>
                      {narrow ? "version" : "component, version"} {l.component.version}
                    </small>
                  )}
                  {locked ? (
                    <small className="ml-2 truncate text-note text-ink-3">{l.note}</small>
                  ) : (
                    <input
                      data-cell="note"
                      aria-label={`Note on ${nameOf(l)}`}
                      defaultValue={l.note ?? ""}
                      key={`${l.id}${l.note}`}
                      placeholder=""
                      className="ml-2 h-7 min-w-6 flex-1 truncate bg-transparent px-1 text-note text-ink-3"
                      onBlur={(e) => e.target.value !== (l.note ?? "") && change(l.id, "note", (x) => ({ ...x, note: e.target.value }))}
                      onKeyDown={(e) => {
                        if (e.key === "Enter") e.currentTarget.blur();
                        if (e.key === "ArrowRight" && e.currentTarget.selectionStart === e.currentTarget.value.length)
                          step(e.currentTarget, 1);
                      }}
                    />
                  )}
                </div>
                {locked ? (
                  <Weight grams={l.grams} className="text-lead font-medium" />
                ) : (
                  <GramCell
                    line={l}
                    name={nameOf(l)}
                    density={densityOf(l)}
                    error={error}
                    onGrams={(g, from) => setGrams(l, g, from)}
                    onMove={(by) => {
                      move(l.id, by);
                      setFocusLine(l.id);
                    }}
                    onStep={(from, rows) => step(from, rows * 2)}
                    onLeft={(from) => step(from, -1)}
                    onPaste={(e) => pasteColumn(i, e)}
                  />
                )}
                {tongue.beside && <div className="pr-3.5 text-right text-note text-ink-2">{beside(l.grams, "mass")}</div>}
                <div className="pr-3.5 text-right text-ink-2">{row ? num(row.percent, 2) : ""}</div>
                <div className="pl-1.5">{row && <MakeUpBar makeUp={row.make_up} scale={scale} max={bar} />}</div>
                <div className="text-right text-ink-2">
                  {row?.no_price ? <span title="No price">—</span> : row ? money(row.per_jar) : ""}
                </div>
                {locked ? (
                  <button
                    type="button"
                    aria-label={`More about ${nameOf(l)}`}
                    className="h-full text-title leading-none text-ink-3 hover:text-cobalt"
                    onClick={() => setDetails(l.id)}
                  >
                    ⋮
                  </button>
                ) : (
                  <LineMenu
                    name={nameOf(l)}
                    line={l}
                    onMove={(by) => move(l.id, by)}
                    onRemove={() => {
                      if (l.purpose) toast(`${nameOf(l)} ${l.purpose}. See that something else does; Ctrl+Z brings it back.`);
                      edit(`${nameOf(l)} taken out`, (v) => ({ ...v, lines: v.lines.filter((x) => x.id !== l.id) }));
                    }}
                    onQuid={() => change(l.id, "label words", (x) => ({ ...x, quid: !x.quid }))}
                    onDisperse={() => change(l.id, "label words", (x) => ({ ...x, disperse: !x.disperse }))}
                    onDetails={() => setDetails(l.id)}
                    onSwap={() => setSwap(l.id)}
                  />
                )}
              </div>
              {error && (
                <p role="alert" className="border-b border-rule-soft bg-beet-tint py-1 pl-7.5 text-note font-semibold text-beet">
                  {error}. Nothing of this edit is stored yet.
                </p>
              )}
            </Fragment>
          );
        })}
        {!locked && <AddLine choices={choices} first={version.lines.length === 0} onAdd={(c) => add(c)} onPasteLines={pasteLines} />}
        {unread && (
          <div className="m-3 max-w-lg">
            <AreaField
              label="Pasted, and not on the sheet"
              value={unread.text}
              rows={Math.min(6, unread.text.split("\n").length)}
              onChange={(e) => setUnread({ ...unread, text: e.target.value })}
              error={unread.why}
            />
            <button type="button" className="btn-quiet" onClick={() => setUnread(null)}>
              Let them go
            </button>
          </div>
        )}
      </div>
      <div className={`${cols} h-11.5 shrink-0 border-t-3 border-double border-rule-strong bg-paper-foot text-lead font-semibold`}>
        <div />
        <div className={narrow ? "leading-tight" : "truncate"}>
          {say("jars", { count: panel.jars })} of {num(version.fill_g, 0)} g
          <span className={`text-note font-normal text-ink-3 ${narrow ? "block leading-none" : "ml-2"}`}>
            {num(version.loss_percent, 0)} % lost, {num(version.overfill_percent, 0)} % over
          </span>
        </div>
        <Weight grams={Number(total.toFixed(1))} />
        {tongue.beside && <div className="pr-3.5 text-right text-note">{beside(total, "mass")}</div>}
        <div className="pr-3.5 text-right">{total > 0 ? "100.00" : ""}</div>
        <div className="pl-1.5">
          <MakeUpBar makeUp={panel.make_up} scale={bar / 103} height={16} max={bar} />
        </div>
        <div className="text-right">{money(panel.cost.ingredients)}</div>
        <div />
      </div>
      <div className="absolute -bottom-7 left-0 flex w-full flex-wrap items-center justify-between px-0.5">
        <MakeUpLegend />
        <span className="text-note text-ink-2">{footer}</span>
      </div>
      {current && (
        <LineDetails
          line={current}
          index={version.lines.indexOf(current)}
          name={nameOf(current)}
          locked={locked}
          problem={problem}
          onChange={(what, f) => change(current.id, what, f)}
          onClose={() => setDetails(null)}
        />
      )}
      {swapped && (
        <SwapDialog
          version={version}
          line={swapped}
          name={nameOf(swapped)}
          onClose={() => setSwap(null)}
          onApply={(next, what) => {
            const line = next.lines.find((l) => l.id === swapped.id);
            if (line) edit(what, (v) => ({ ...v, lines: v.lines.map((l) => (l.id === line.id ? line : l)) }));
            setSwap(null);
          }}
        />
      )}
    </section>
  );
}

/** Grams with the unit set apart, so that decimals stand under one another in every row. */
function Weight({ grams, className = "" }: { grams: number; className?: string }) {
  const { num } = useFormats();
  return (
    <div className={`relative pr-6.5 text-right ${className}`}>
      {num(grams, places(grams))}
      <span className="unit absolute top-1/2 right-3.5 -translate-y-1/2 text-note!">g</span>
    </div>
  );
}
