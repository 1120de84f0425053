import { type KeyboardEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { DayCell } from "../../parts/date";
import { Check } from "../../parts/form";
import { SelectField } from "../../parts/select";
import { useMe } from "../../parts/session";
import { near, one } from "../../tongue/names";
import { say } from "../../tongue/words";
import { COLUMNS, type Column, isTyped, type RowText } from "./rows";

type Ingredient = Schemas["IngredientRow"];

/** One lot of a delivery note: what every lot has in the row, the rest below it. */
export function ReceiveRow({
  n,
  r,
  pantry,
  errors,
  onChange,
  onPaste,
  onLook,
  onNext,
  onDrop,
}: {
  n: number;
  r: RowText;
  pantry: Ingredient[];
  errors: Record<string, string>;
  onChange: (part: Partial<RowText>) => void;
  onPaste: (c: Column, text: string) => void;
  onLook: () => void;
  onNext: (c: Column) => void;
  onDrop?: () => void;
}) {
  const [more, setMore] = useState(false);
  const me = useMe();
  // a delivery takes what the shop calls a thing; what is only typically called so is offered
  const g = one(
    pantry.filter((x) => !x.retired).map((x) => ({ ...x, called: [x.id] })),
    r.ingredient,
  );
  const beyond = ["limit_c", "strength", "ph", "list", "note", "end_kind", "refuse", "reason"].some((f) => errors[f]);
  const open = more || beyond || (!!r.refuse && !r.accept);
  const onKeyDown = (e: KeyboardEvent, c: Column) => {
    if (e.key !== "Enter" || e.ctrlKey || e.metaKey) return;
    e.preventDefault();
    onNext(c);
  };
  const cell = (c: Column, label: string, rest: Record<string, unknown> = {}) => (
    <input
      data-cell={`${n}.${c}`}
      aria-label={`${label}, row ${n + 1}`}
      aria-invalid={!!errors[c]}
      className="field h-8!"
      value={r[c]}
      onChange={(e) => onChange({ [c]: e.target.value })}
      onKeyDown={(e) => onKeyDown(e, c)}
      onBlur={onLook}
      onPaste={(e) => {
        const text = e.clipboardData.getData("text/plain");
        if (!/[\t\n]/.test(text.replace(/\n$/, ""))) return;
        e.preventDefault();
        onPaste(c, text);
      }}
      {...rest}
    />
  );
  const told = [...COLUMNS, "accept" as const].filter((c) => errors[c]);
  return (
    <>
      <tr className="focus-within:bg-cobalt-tint">
        <td className="text-center text-note text-ink-3">{n + 1}</td>
        <td>
          <Goods
            n={n}
            r={r}
            pantry={pantry}
            bad={!!errors.ingredient}
            onChange={onChange}
            onKeyDown={onKeyDown}
            onBlur={onLook}
            onPaste={onPaste}
          />
        </td>
        <td className="pl-2">{cell("pack", "How much")}</td>
        <td className="pl-2">{cell("text", "Their lot")}</td>
        <td className="pl-2">
          <DayCell
            data-cell={`${n}.ends`}
            label={`Ends, row ${n + 1}`}
            aria-invalid={!!errors.ends}
            className={`field h-8! ${g?.asks_end && !r.ends ? "border-mustard!" : ""}`}
            value={r.ends}
            onValue={(ends) => onChange({ ends })}
            onSettled={onLook}
            onKeyDown={(e) => onKeyDown(e, "ends")}
            onPaste={(e) => {
              const text = e.clipboardData.getData("text/plain");
              if (!/[\t\n]/.test(text.replace(/\n$/, ""))) return;
              e.preventDefault();
              onPaste("ends", text);
            }}
          />
        </td>
        <td className="pl-2">{cell("cost", "Cost of all of it", { inputMode: "decimal", className: "field h-8! text-right" })}</td>
        <td className="pl-2">
          {cell("arrival_c", "Temperature on arrival", {
            inputMode: "decimal",
            className: `field h-8! text-right ${g?.asks_cold && !r.arrival_c ? "border-mustard!" : ""}`,
          })}
        </td>
        <td className="pl-2">
          {cell("statement", "Kill-step statement", {
            placeholder: g?.asks_proof ? "certificate, date" : "",
            className: `field h-8! ${g?.asks_proof && !r.statement ? "border-mustard!" : ""}`,
          })}
        </td>
        <td className="pr-2 pl-3 whitespace-nowrap">
          <span className="flex items-center justify-end">
            {me.may("maker") && isTyped(r) && (
              <span className="mr-auto">
                <Check
                  label={
                    <>
                      accept<span className="sr-only"> row {n + 1}</span>
                    </>
                  }
                  checked={r.accept}
                  onChange={(accept) => onChange({ accept })}
                />
              </span>
            )}
            <button type="button" className="btn-quiet px-1.5!" aria-expanded={open} onClick={() => setMore(!more)}>
              more<span className="sr-only"> of row {n + 1}</span>
            </button>
            {onDrop && (
              <button type="button" className="btn-quiet px-1.5!" aria-label={`Take row ${n + 1} out`} onClick={onDrop}>
                Out
              </button>
            )}
          </span>
        </td>
      </tr>
      {told.length > 0 && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={8} role="alert" className="h-auto! bg-beet-tint px-2 py-1 text-note font-semibold text-beet">
            {told.map((c) => errors[c]).join("; ")}
          </td>
        </tr>
      )}
      {open && (
        <tr>
          <td className="h-auto!" />
          <td colSpan={8} className="h-auto! pt-2 pb-3">
            <More n={n} r={r} errors={errors} mayAccept={me.may("maker")} onChange={onChange} />
          </td>
        </tr>
      )}
    </>
  );
}

/** The name of the goods, with what the pantry has as it is typed. */
function Goods({
  n,
  r,
  pantry,
  bad,
  onChange,
  onKeyDown,
  onBlur,
  onPaste,
}: {
  n: number;
  r: RowText;
  pantry: Ingredient[];
  bad: boolean;
  onChange: (part: Partial<RowText>) => void;
  onKeyDown: (e: KeyboardEvent, c: Column) => void;
  onBlur: () => void;
  onPaste: (c: Column, text: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const offered = pantry.filter((g) => !g.retired && g.name !== r.ingredient).sort((a, b) => Number(b.used > 0) - Number(a.used > 0));
  const hits = open && r.ingredient.trim() ? near(offered, r.ingredient).slice(0, 7) : [];
  const choose = (g: Ingredient) => {
    onChange({ ingredient: g.name });
    setOpen(false);
  };
  const id = `goods-${n}`;
  return (
    <div className="relative">
      <input
        data-cell={`${n}.ingredient`}
        role="combobox"
        aria-label={`What came in, row ${n + 1}`}
        aria-expanded={hits.length > 0}
        aria-controls={id}
        aria-activedescendant={hits[at] ? `${id}-${at}` : undefined}
        aria-invalid={bad}
        autoComplete="off"
        className="field h-8!"
        value={r.ingredient}
        onChange={(e) => {
          onChange({ ingredient: e.target.value });
          setOpen(true);
          setAt(0);
        }}
        onBlur={() => {
          setOpen(false);
          onBlur();
        }}
        onPaste={(e) => {
          const text = e.clipboardData.getData("text/plain");
          if (!/[\t\n]/.test(text.replace(/\n$/, ""))) return;
          e.preventDefault();
          setOpen(false);
          onPaste("ingredient", text);
        }}
        onKeyDown={(e) => {
          if (hits.length > 0 && (e.key === "ArrowDown" || e.key === "ArrowUp")) {
            e.preventDefault();
            setAt((at + (e.key === "ArrowDown" ? 1 : hits.length - 1)) % hits.length);
            return;
          }
          if (hits[at] && (e.key === "Enter" || e.key === "Tab") && !e.shiftKey && !e.ctrlKey) {
            if (e.key === "Enter") e.preventDefault();
            choose(hits[at]);
            return;
          }
          if (e.key === "Escape") setOpen(false);
          onKeyDown(e, "ingredient");
        }}
      />
      {hits.length > 0 && (
        <div id={id} role="listbox" aria-label="In the pantry" className="sheet absolute top-8.5 left-0 z-20 w-full min-w-70 p-1">
          {hits.map((g, i) => (
            <div
              key={g.id}
              id={`${id}-${i}`}
              role="option"
              tabIndex={-1}
              aria-selected={i === at}
              className={`min-h-8 cursor-pointer rounded-sm px-2 py-1.5 text-body ${i === at ? "bg-cobalt-tint" : ""}`}
              onMouseDown={(e) => {
                e.preventDefault();
                choose(g);
              }}
            >
              {g.name}
            </div>
          ))}
        </div>
      )}
    </div>
  );
}

/** What only some lots have: acid strength, pH, the printed list, and what is decided on it at once. */
function More({
  n,
  r,
  errors,
  mayAccept,
  onChange,
}: {
  n: number;
  r: RowText;
  errors: Record<string, string>;
  mayAccept: boolean;
  onChange: (part: Partial<RowText>) => void;
}) {
  const field = (c: keyof RowText, label: string, width: string, rest: Record<string, unknown> = {}) => (
    <label className={`block ${width}`}>
      <span className="mb-0.5 block text-note text-ink-2">{label}</span>
      <input
        data-cell={`${n}.${c}`}
        aria-label={`${label}, row ${n + 1}`}
        aria-invalid={!!errors[c]}
        className="field h-8!"
        value={r[c] as string}
        onChange={(e) => onChange({ [c]: e.target.value })}
        {...rest}
      />
      {errors[c] && (
        <span role="alert" className="mt-0.5 block text-note font-semibold text-beet">
          {errors[c]}
        </span>
      )}
    </label>
  );
  return (
    <div className="grid gap-3 pr-4">
      <div className="flex flex-wrap gap-3">
        <SelectField
          className="w-37.5"
          label="the end is a"
          aria-label={`Kind of end, row ${n + 1}`}
          value={r.end_kind}
          onValue={(end_kind) => onChange({ end_kind })}
          options={[
            ["", "as usual for it"],
            ["use_by", say("use_by")],
            ["best_before", say("best_before")],
          ]}
          error={errors.end_kind}
        />
        {field("limit_c", "arrives at most at, °C", "w-37.5", { placeholder: "the law's" })}
        {field("strength", "acid on the packet, g in 100 mL", "w-47.5")}
        {field("ph", "pH on the packet", "w-27.5")}
        {field("note", "note", "w-60")}
      </div>
      <div className="flex flex-wrap items-end gap-3">
        {field("list", "list of ingredients as it is printed, where the packet has one", "min-w-105 flex-1")}
      </div>
      <div className="flex flex-wrap items-end gap-4">
        {mayAccept && r.accept && field("reason", "why it is accepted all the same, where something speaks against it", "w-100")}
        {mayAccept && !r.accept && field("refuse", "refused, because (empty: it waits)", "w-85")}
      </div>
    </div>
  );
}
