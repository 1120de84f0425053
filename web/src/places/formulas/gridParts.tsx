import { Command } from "cmdk";
import { DropdownMenu } from "radix-ui";
import { type ClipboardEvent, type KeyboardEvent, useRef, useState } from "react";
import { readNumber } from "../../parts/form";
import { useFormats } from "../../parts/shop";
import type { Line } from "./useDraft";

export interface Choice {
  key: string;
  name: string;
  hint: string;
  line: Pick<Line, "ingredient" | "component">;
}

interface CellProps {
  line: Line;
  name: string;
  error: string;
  onGrams: (g: number, from: number) => void;
  onMove: (by: number) => void;
  onStep: (from: HTMLElement, rows: number) => void;
  onLeft: (from: HTMLElement) => void;
  onPaste: (e: ClipboardEvent) => void;
}

/** One weight: typed, saved when it is a number, arrows and Enter move on. */
export function GramCell({ line, name, error, onGrams, onMove, onStep, onLeft, onPaste }: CellProps) {
  const { num } = useFormats();
  const [text, setText] = useState<string | null>(null);
  const from = useRef(line.grams);
  const shown = text ?? num(line.grams, 1);
  const bad = text !== null && text.trim() !== "" && readNumber(text) === null;
  const commit = () => {
    const n = text === null ? null : readNumber(text);
    if (n !== null && n !== line.grams) onGrams(n, from.current);
    if (n !== null || text?.trim() === "") setText(null);
  };
  const onKeyDown = (e: KeyboardEvent<HTMLInputElement>) => {
    const cell = e.currentTarget;
    if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
      e.preventDefault();
      onMove(e.key === "ArrowUp" ? -1 : 1);
    } else if (e.key === "Enter" || e.key === "ArrowDown") {
      e.preventDefault();
      commit();
      onStep(cell, 1);
    } else if (e.key === "ArrowUp") {
      e.preventDefault();
      commit();
      onStep(cell, -1);
    } else if (e.key === "ArrowLeft" && cell.selectionStart === 0 && cell.selectionEnd === 0) {
      onLeft(cell);
    } else if (e.key === "Escape") {
      setText(null);
    }
  };
  return (
    <div className="relative h-full">
      <input
        data-cell="grams"
        data-line={line.id}
        aria-label={`Grams of ${name}`}
        aria-invalid={bad || !!error}
        inputMode="decimal"
        value={shown}
        onFocus={(e) => {
          from.current = line.grams;
          e.target.select();
        }}
        onChange={(e) => {
          setText(e.target.value);
          const n = readNumber(e.target.value);
          if (n !== null && n !== line.grams) onGrams(n, from.current);
        }}
        onBlur={commit}
        onKeyDown={onKeyDown}
        onPaste={onPaste}
        className={`h-full w-full bg-transparent pr-[26px] text-right text-[16.5px] font-medium focus:bg-white focus:outline-2 focus:-outline-offset-3 focus:outline-cobalt ${bad || error ? "bg-beet-tint text-beet" : ""}`}
      />
      <span className="unit pointer-events-none absolute top-1/2 right-[14px] -translate-y-1/2 text-[12px]!">g</span>
      {bad && (
        <span
          role="alert"
          className="absolute top-full right-0 z-10 rounded-[3px] bg-beet px-2 py-px text-[12px] whitespace-nowrap text-white"
        >
          “{text}” is not a number
        </span>
      )}
    </div>
  );
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
  const item = "flex min-h-9 items-center rounded-[3px] px-3 text-[14px] outline-none data-[highlighted]:bg-cobalt-tint";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`More for ${name}`}
        className="flex h-full w-full items-center justify-center text-[18px] leading-none text-ink-3 hover:text-cobalt"
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
            Move up <span className="ml-auto text-[12px] text-ink-3">Alt ↑</span>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={() => onMove(1)}>
            Move down <span className="ml-auto text-[12px] text-ink-3">Alt ↓</span>
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
  onAdd,
  onPasteLines,
}: {
  choices: Choice[];
  onAdd: (c: Choice) => void;
  onPasteLines: (text: string) => void;
}) {
  const [text, setText] = useState("");
  const open = text.trim().length > 0;
  return (
    <Command
      label="Add a line"
      className="relative"
      filter={(value, search) => (value.toLowerCase().includes(search.toLowerCase().trim()) ? 1 : 0)}
    >
      <div className="flex h-[38px] items-center pl-[26px]">
        <Command.Input
          value={text}
          onValueChange={setText}
          data-cell="add"
          aria-label="Add a line"
          placeholder="Type an ingredient, or paste lines"
          className="h-full flex-1 bg-transparent px-1 text-[15px]"
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
      <Command.List hidden={!open} className="sheet absolute left-5 z-30 max-h-64 w-[420px] overflow-auto p-1 data-[hidden]:hidden">
        {open && (
          <>
            <Command.Empty className="p-2 text-[13.5px] text-ink-2">
              The pantry has no “{text}”.{" "}
              <a className="font-semibold text-cobalt" href="/pantry?new=1">
                Add it to the pantry
              </a>
            </Command.Empty>
            {choices.map((c) => (
              <Command.Item
                key={c.key}
                value={`${c.name} ${c.key}`}
                onSelect={() => {
                  setText("");
                  onAdd(c);
                }}
                className="flex min-h-9 items-center justify-between rounded-[3px] px-2 data-[selected=true]:bg-cobalt-tint"
              >
                {c.name} <span className="text-[12.5px] text-ink-3">{c.hint}</span>
              </Command.Item>
            ))}
          </>
        )}
      </Command.List>
    </Command>
  );
}
