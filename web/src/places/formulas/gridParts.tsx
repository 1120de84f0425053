import { Command } from "cmdk";
import { DropdownMenu } from "radix-ui";
import { type ClipboardEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { Ask } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { useUnsaved } from "../../saving/unsaved";
import { byNames } from "../../tongue/names";
import { onItsWay, type Reading, readQuantity } from "../../tongue/quantity";
import type { Line } from "./useDraft";

export interface Choice {
  key: string;
  name: string;
  /** Its other names. */
  called: readonly string[];
  hint: string;
  /** g/mL, 0 where it is not known. */
  density: number;
  line: Pick<Line, "ingredient" | "component">;
}

interface CellProps {
  line: Line;
  name: string;
  /** g/mL, 0 where it is not known. */
  density: number;
  error: string;
  onGrams: (g: number, from: number) => void;
  onMove: (by: number) => void;
  onStep: (from: HTMLElement, rows: number) => void;
  onLeft: (from: HTMLElement) => void;
  onPaste: (e: ClipboardEvent) => void;
}

/**
 * One weight: typed in grams or in the kitchen's own units, saved while it is one, arrows and Enter move on. What cannot be
 * read, or can be read two ways, stays in the cell; the line keeps what stood there until it is settled.
 */
export function GramCell({ line, name, density, error, onGrams, onMove, onStep, onLeft, onPaste }: CellProps) {
  const { num } = useFormats();
  const [text, setText] = useState<string | null>(null);
  const from = useRef(line.grams);
  const input = useRef<HTMLInputElement>(null);
  const shown = text ?? num(line.grams, places(line.grams));
  const read = (t: string): Reading => readQuantity(t, { measure: "mass", density });
  const reading = text === null ? null : read(text);
  const bad = reading?.kind === "wrong" ? reading.why : "";
  useUnsaved(reading?.kind === "wrong" || reading?.kind === "ask" ? `“${text}” for the grams of ${name}` : "");
  const put = (grams: number) => {
    if (grams !== line.grams) onGrams(grams, from.current);
  };
  const commit = () => {
    const r = text === null ? null : read(text);
    if (r?.kind === "value") put(r.value);
    if (r?.kind === "value" || r?.kind === "empty") setText(null);
  };
  const onKeyDown = (e: KeyboardEvent<HTMLInputElement>) => {
    const cell = e.currentTarget;
    const by = e.key === "Enter" || e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
      e.preventDefault();
      onMove(by);
    } else if (by !== 0) {
      e.preventDefault();
      commit();
      if (reading?.kind !== "ask" && reading?.kind !== "wrong") onStep(cell, by);
    } else if (e.key === "ArrowLeft" && cell.selectionStart === 0 && cell.selectionEnd === 0) {
      onLeft(cell);
    } else if (e.key === "Escape") {
      setText(null);
      put(from.current);
    }
  };
  return (
    <div className="relative h-full">
      <input
        ref={input}
        data-cell="grams"
        data-line={line.id}
        aria-label={`Grams of ${name}`}
        aria-invalid={!!(bad || error)}
        autoComplete="off"
        value={shown}
        onFocus={(e) => {
          if (text === null) from.current = line.grams;
          e.target.select();
        }}
        onChange={(e) => {
          setText(e.target.value);
          const r = read(e.target.value);
          put(r.kind === "value" && !onItsWay(e.target.value) ? r.value : from.current);
        }}
        onBlur={commit}
        onKeyDown={onKeyDown}
        onPaste={onPaste}
        className={`h-full w-full bg-transparent pr-6.5 text-right text-lead font-medium focus:bg-white focus:outline-2 focus:-outline-offset-3 focus:outline-cobalt ${bad || error ? "bg-beet-tint text-beet" : ""}`}
      />
      <span className="unit pointer-events-none absolute top-1/2 right-3.5 -translate-y-1/2 text-note!">g</span>
      {reading?.kind === "value" && reading.foreign && (
        <span className="pointer-events-none absolute top-full right-0 z-10 rounded-sm bg-cobalt-deep px-2 py-px text-note whitespace-nowrap text-white">
          = {num(reading.value, places(reading.value))} g
        </span>
      )}
      {bad && (
        <span role="alert" className="absolute top-full right-0 z-10 rounded-sm bg-beet px-2 py-px text-note whitespace-nowrap text-white">
          {bad}
        </span>
      )}
      {reading?.kind === "ask" && (
        <div className="absolute top-full right-0 z-20 w-60 shadow-lift">
          <Ask
            label={`Grams of ${name}`}
            why={reading.why}
            options={reading.options}
            onPick={(o) => {
              put(o.value);
              setText(null);
              from.current = o.value;
              input.current?.focus();
            }}
          />
        </div>
      )}
    </div>
  );
}

/** A tenth of a gram, unless somebody weighed finer. */
export function places(grams: number): number {
  return Number.isInteger(Number((grams * 10).toFixed(6))) ? 1 : Number.isInteger(Number((grams * 100).toFixed(6))) ? 2 : 3;
}

interface MenuProps {
  name: string;
  line: Line;
  onMove: (by: number) => void;
  onRemove: () => void;
  onQuid: () => void;
  onDisperse: () => void;
  onDetails: () => void;
  onSwap: () => void;
}

export function LineMenu({ name, line, onMove, onRemove, onQuid, onDisperse, onDetails, onSwap }: MenuProps) {
  const item = "flex min-h-9 items-center rounded-sm px-3 text-body outline-none data-[highlighted]:bg-cobalt-tint";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`More for ${name}`}
        className="flex h-full w-full items-center justify-center text-title leading-none text-ink-3 hover:text-cobalt"
      >
        ⋮
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="sheet z-40 min-w-60 p-1">
          <DropdownMenu.Item className={item} onSelect={onDetails}>
            More about this line …
          </DropdownMenu.Item>
          {line.ingredient && (
            <DropdownMenu.Item className={item} onSelect={onSwap}>
              Swap for another …
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={onQuid}>
            {line.quid ? "Not named on the label" : "Named on the label"}
          </DropdownMenu.Item>
          {line.component && (
            <DropdownMenu.Item className={item} onSelect={onDisperse}>
              {line.disperse ? "Show as a compound" : "Merge with the rest"}
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={() => onMove(-1)}>
            Move up <span className="ml-auto text-note text-ink-3">Alt ↑</span>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={() => onMove(1)}>
            Move down <span className="ml-auto text-note text-ink-3">Alt ↓</span>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={`${item} text-beet`} onSelect={onRemove}>
            Take out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** The last row: type a name and take it with Enter, or paste rows of name and grams. */
export function AddLine({
  choices,
  first,
  onAdd,
  onPasteLines,
}: {
  choices: Choice[];
  /** The sheet is empty: writing begins here. */
  first: boolean;
  onAdd: (c: Choice) => void;
  onPasteLines: (text: string) => void;
}) {
  const [text, setText] = useState("");
  const open = text.trim().length > 0;
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (first) input.current?.focus();
  }, [first]);
  return (
    <Command label="Add a line" className="relative" filter={byNames}>
      <div className="flex h-9.5 items-center pl-6.5">
        <Command.Input
          ref={input}
          value={text}
          onValueChange={setText}
          data-cell="add"
          aria-label="Add a line"
          placeholder="Type an ingredient, or paste lines"
          className="h-full flex-1 bg-transparent px-1 text-lead"
          onPaste={(e) => {
            const pasted = e.clipboardData.getData("text");
            if (/[\n\t]/.test(pasted.trim())) {
              e.preventDefault();
              onPasteLines(pasted);
            }
          }}
          onKeyDown={(e) => {
            if (e.key === "Escape") setText("");
          }}
        />
      </div>
      <Command.List hidden={!open} className="sheet absolute left-5 z-30 max-h-64 w-105 overflow-auto p-1 data-[hidden]:hidden">
        {open && (
          <>
            <Command.Empty className="p-2 text-body text-ink-2">
              The pantry has no “{text}”.{" "}
              <Link className="font-semibold text-cobalt" to={`/pantry?new=1&name=${encodeURIComponent(text.trim())}`}>
                Add it to the pantry
              </Link>
            </Command.Empty>
            {choices.map((c) => (
              <Command.Item
                key={c.key}
                value={c.key}
                keywords={[c.name, ...c.called]}
                onSelect={() => {
                  setText("");
                  onAdd(c);
                }}
                className="flex min-h-9 items-center justify-between rounded-sm px-2 data-[selected=true]:bg-cobalt-tint"
              >
                {c.name} <span className="text-note text-ink-3">{c.hint}</span>
              </Command.Item>
            ))}
          </>
        )}
      </Command.List>
    </Command>
  );
}
