import { type ReactNode, useEffect, useId, useState } from "react";
import { measureOf, readQuantity, shown } from "../tongue/quantity";
import { whyNot } from "./number";

const look =
  "rounded-none border-0 border-b-2 border-dotted border-cobalt bg-transparent px-px font-semibold text-ink hover:bg-cobalt-tint focus-visible:bg-white aria-[invalid=true]:border-beet aria-[invalid=true]:bg-beet-tint";

/** The look of a word of a sentence that can be changed where it stands. */
export const saidLook = `${look} min-h-6.5`;

/** A figure in a sentence, changed where it stands; what is no figure stays, and says why once it is left. */
export function SaidNumber({
  label,
  value,
  onValue,
  unit,
  error,
  whole = false,
}: {
  label: string;
  value: number;
  onValue: (n: number) => void;
  unit?: string;
  error?: string;
  whole?: boolean;
}) {
  const id = useId();
  const [text, setText] = useState(shown(value));
  const [why, setWhy] = useState("");
  const measure = measureOf(unit);
  useEffect(() => {
    setText((now) => {
      const have = readQuantity(now, { measure });
      return have.kind === "value" && have.value === value ? now : shown(value);
    });
    setWhy("");
  }, [value, measure]);
  // handed on with every key that makes a figure; what is none is said once the field is left
  const take = (t: string, left: boolean) => {
    const r = readQuantity(t, { measure });
    const bad = whyNot(r, false) || (whole && r.kind === "value" && !Number.isInteger(r.value) ? "whole jars" : "");
    setWhy(left ? bad : "");
    if (!bad && r.kind === "value" && r.value !== value) onValue(r.value);
  };
  const said = why || error;
  return (
    <span className="relative whitespace-nowrap">
      <input
        id={id}
        aria-label={label}
        aria-invalid={!!said}
        aria-describedby={said ? `${id}-e` : undefined}
        inputMode="decimal"
        autoComplete="off"
        className={`${saidLook} text-right`}
        style={{ width: `${Math.max(1, text.length) + 0.6}ch` }}
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          take(e.target.value, false);
        }}
        onBlur={() => take(text, true)}
        onKeyDown={(e) => e.key === "Enter" && take(text, true)}
      />
      {unit && <b className="font-semibold text-ink"> {unit}</b>}
      {said && <Wrong id={`${id}-e`}>{said}</Wrong>}
    </span>
  );
}

/** Why a word of a sentence is not taken, under it. */
export function Wrong({ id, children }: { id: string; children: ReactNode }) {
  return (
    <span
      id={id}
      role="alert"
      className="absolute top-full left-0 z-10 mt-1 w-max max-w-75 border-l-4 border-beet bg-beet-tint px-2 py-1 text-note font-semibold whitespace-normal text-beet"
    >
      {children}
    </span>
  );
}
