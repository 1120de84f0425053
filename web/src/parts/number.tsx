import { type ComponentProps, useEffect, useId, useRef, useState } from "react";
import { type Asked, beside, measureOf, type Option, onItsWay, plainly, type Reading, readQuantity, shown } from "../tongue/quantity";
import { type FieldProps, Frame } from "./form";

/** What can be read two ways, or is out of reason, is asked about where it was typed. Neither answer is assumed. */
export function Ask<O extends { label: string }>({
  why,
  options,
  onPick,
  label,
}: {
  why: string;
  options: readonly O[];
  onPick: (o: O) => void;
  label: string;
}) {
  return (
    <div role="alert" className="mt-1 border-l-4 border-mustard bg-mustard-tint px-2 py-1 text-note leading-tight whitespace-normal">
      <b className="block font-semibold text-mustard-ink">{why}:</b>
      {options.map((o) => (
        <button
          key={o.label}
          type="button"
          aria-label={`${label}: ${o.label}`}
          className="mt-0.5 mr-1 min-h-7 rounded-sm border border-rule-strong bg-white px-2 hover:border-cobalt hover:text-cobalt"
          onClick={() => onPick(o)}
        >
          {o.label}
        </button>
      ))}
    </div>
  );
}

/** The unit that each measure is kept in. */
const UNITS = { plain: "", mass: "g", volume: "mL", length: "mm", temperature: "°C" } as const;

/** What stops a text from being taken, in a sentence; empty where it is taken. */
export function whyNot(r: Reading, mayBeEmpty: boolean): string {
  if (r.kind === "value") return "";
  if (r.kind === "empty") return mayBeEmpty ? "" : "a number is needed here";
  return r.why;
}

/**
 * A number that is typed as text, in the shop's own units where its unit has others, and handed on when it is one. What is
 * none, or is asked about, stays where it was typed: what stood there before counts until it is settled, and the form
 * around it is not sent. Where late is set it is handed on when the field is left or Enter is pressed, else with every key.
 */
export function NumberField({
  value,
  onValue,
  error,
  allowEmpty = false,
  late = false,
  reason,
  density,
  label,
  hint,
  unit,
  className,
  measure = measureOf(unit),
  ...rest
}: FieldProps & { value: number | null; onValue: (n: number | null) => void; allowEmpty?: boolean; late?: boolean } & Pick<
    Asked,
    "reason" | "density" | "measure"
  > &
  Omit<ComponentProps<"input">, "id" | "value" | "onChange">) {
  const id = useId();
  const asked: Asked = { measure, reason, density };
  const [text, setText] = useState(value === null ? "" : shown(value));
  const [settled, setSettled] = useState({ text, value }); // taken as it stands: not asked about again
  const [told, setTold] = useState(false); // empty is an error only once somebody emptied it
  const input = useRef<HTMLInputElement>(null);
  const before = useRef(value);
  const open = useRef(false); // text that is not taken stands in the field
  const read = (t: string): Reading =>
    t !== "" && t === settled.text && settled.value !== null
      ? { kind: "value", value: settled.value, foreign: false }
      : readQuantity(t, asked);
  const reading = read(text);
  const asks = reading.kind === "ask";
  const bad = reading.kind === "empty" && !told ? "" : whyNot(reading, allowEmpty);

  useEffect(() => {
    if (open.current) return;
    setText((now) => {
      const have = readQuantity(now, { measure, density });
      if ((have.kind === "value" && have.value === value) || (now === "" && value === null)) return now;
      const next = value === null ? "" : shown(value);
      setSettled({ text: next, value });
      return next;
    });
  }, [value, measure, density]);
  useEffect(() => input.current?.setCustomValidity(bad), [bad]);

  const put = (n: number | null) => {
    if (n !== value) onValue(n);
  };
  const handOn = (t: string, left = false) => {
    const r = read(t);
    const coming = !left && r.kind === "value" && onItsWay(t);
    open.current = coming || whyNot(r, allowEmpty) !== "";
    if (r.kind === "value" && !coming) put(r.value);
    else if (r.kind === "empty" && allowEmpty) put(null);
    else put(before.current);
  };
  const pick = (o: Option) => {
    open.current = false;
    setText(shown(o.value));
    setSettled({ text: shown(o.value), value: o.value });
    put(o.value);
    input.current?.focus();
  };
  const leave = () => {
    const r = read(text);
    if (r.kind === "value" && r.foreign) {
      setText(shown(r.value));
      setSettled({ text: shown(r.value), value: r.value });
    }
  };
  const other =
    reading.kind === "value" && (reading.foreign ? `= ${plainly(reading.value)} ${UNITS[measure]}` : beside(reading.value, measure));
  return (
    <Frame {...{ label, unit, className, id }} error={asks ? "" : bad || error} hint={asks ? undefined : hint || other || undefined}>
      <input
        {...rest}
        ref={input}
        id={id}
        className="field"
        inputMode={measure === "plain" ? "decimal" : "text"}
        value={text}
        aria-invalid={!!(bad || error)}
        aria-describedby={bad || error ? `${id}-e` : hint || other ? `${id}-h` : undefined}
        onFocus={(e) => {
          before.current = value;
          rest.onFocus?.(e);
        }}
        onChange={(e) => {
          setText(e.target.value);
          setTold(true);
          if (!late) handOn(e.target.value);
          else open.current = true;
        }}
        onBlur={(e) => {
          if (late || onItsWay(e.target.value)) handOn(e.target.value, true);
          leave();
          rest.onBlur?.(e);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter" && (late || onItsWay(e.currentTarget.value))) {
            handOn(e.currentTarget.value, true);
            leave();
          }
          rest.onKeyDown?.(e);
        }}
      />
      {asks && <Ask why={reading.why} options={reading.options} onPick={pick} label={label} />}
    </Frame>
  );
}
