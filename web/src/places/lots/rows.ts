import type { Schemas } from "../../api/client";
import { readDay } from "../../tongue/days";
import { type Reading, readQuantity } from "../../tongue/quantity";

type NewLot = Schemas["NewLot"];

/** A row of a delivery note as it is typed: all text. */
export interface RowText {
  ingredient: string;
  pack: string;
  text: string;
  ends: string;
  end_kind: string;
  cost: string;
  arrival_c: string;
  limit_c: string;
  statement: string;
  strength: string;
  ph: string;
  list: string;
  note: string;
  accept: boolean;
  refuse: string;
  reason: string;
}

export const EMPTY: RowText = {
  ingredient: "",
  pack: "",
  text: "",
  ends: "",
  end_kind: "",
  cost: "",
  arrival_c: "",
  limit_c: "",
  statement: "",
  strength: "",
  ph: "",
  list: "",
  note: "",
  accept: false,
  refuse: "",
  reason: "",
};

/** The columns of the grid, in the order in which a spreadsheet's are pasted. */
export const COLUMNS = ["ingredient", "pack", "text", "ends", "cost", "arrival_c", "statement"] as const;
export type Column = (typeof COLUMNS)[number];

/** Whether anything was typed into a row. */
export function isTyped(r: RowText): boolean {
  return Object.entries(r).some(([k, v]) => k !== "accept" && typeof v === "string" && v.trim() !== "");
}

/** Figures that are typed as text, with what they are. */
const FIGURES = ["cost", "arrival_c", "limit_c", "strength", "ph"] as const;

type Figure = (typeof FIGURES)[number];

/** What arrives is neither colder nor warmer than this, in °C, unless it was typed in °F. */
const ARRIVES = [-35, 35] as const;

function readFigure(f: Figure, text: string): Reading {
  const cold = f === "arrival_c" || f === "limit_c";
  return readQuantity(text, cold ? { measure: "temperature", reason: ARRIVES } : {});
}

/** What is wrong with the figures of a row before it is sent: a text that is no number is never half taken. */
export function wrongFigures(r: RowText): Record<string, string> {
  const out: Record<string, string> = {};
  for (const f of FIGURES) {
    const text = r[f].trim();
    if (text === "") continue;
    const read = readFigure(f, text);
    if (read.kind === "ask") out[f] = `${read.why}: ${read.options.map((o) => o.label).join(", or ")}. Write the one that is meant`;
    else if (read.kind === "wrong") out[f] = read.why;
  }
  return out;
}

/** A row as it is sent. */
export function asNewLot(r: RowText): NewLot {
  const figure = (f: Figure) => {
    const read = readFigure(f, r[f]);
    return read.kind === "value" ? read.value : null;
  };
  return {
    ingredient: r.ingredient.trim(),
    pack: r.pack.trim(),
    text: r.text.trim(),
    ends: r.ends,
    end_kind: r.end_kind,
    cost: figure("cost"),
    arrival_c: figure("arrival_c"),
    limit_c: figure("limit_c"),
    statement: r.statement.trim(),
    strength: figure("strength"),
    ph: figure("ph"),
    list: r.list.trim(),
    note: r.note.trim(),
    accept: r.accept,
    refuse: r.accept ? "" : r.refuse.trim(),
    reason: r.reason.trim(),
  };
}

/** A row read from a file, for the grid. */
export function asText(n: NewLot, accept: boolean): RowText {
  const figure = (x: number | null | undefined) => (x == null ? "" : String(x));
  return {
    ...EMPTY,
    ingredient: n.ingredient,
    pack: n.pack,
    text: n.text ?? "",
    ends: n.ends ?? "",
    end_kind: n.end_kind ?? "",
    cost: figure(n.cost),
    arrival_c: figure(n.arrival_c),
    limit_c: figure(n.limit_c),
    statement: n.statement ?? "",
    strength: figure(n.strength),
    ph: figure(n.ph),
    list: n.list ?? "",
    note: n.note ?? "",
    accept,
  };
}

/** Cells pasted from a spreadsheet, put into the grid from one cell on; rows are added as they are needed. */
export function paste(rows: readonly RowText[], at: number, column: Column, text: string, accept: boolean): RowText[] {
  const out = rows.map((r) => ({ ...r }));
  const from = COLUMNS.indexOf(column);
  text
    .replace(/\r\n?/g, "\n")
    .replace(/\n$/, "")
    .split("\n")
    .forEach((line, i) => {
      if (!out[at + i]) out[at + i] = { ...EMPTY, accept };
      line.split("\t").forEach((cell, k) => {
        const c = COLUMNS[from + k];
        if (c) out[at + i][c] = c === "ends" ? dayOf(cell) : c === "cost" ? cell.trim().replace(/^[£$€]\s*/, "") : cell.trim();
      });
    });
  return out;
}

/** A day as a spreadsheet writes it, where it can be read one way only; else as it stands. */
export function dayOf(text: string): string {
  const r = readDay(text);
  return r.kind === "value" ? r.value : text.trim();
}
