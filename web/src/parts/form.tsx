import { Dialog } from "radix-ui";
import { type ComponentProps, type ReactNode, useEffect, useId, useState } from "react";

interface FieldProps {
  label: string;
  error?: string;
  hint?: string;
  unit?: string;
  className?: string;
}

function Frame({ label, error, hint, unit, className, id, children }: FieldProps & { id: string; children: ReactNode }) {
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-[3px] block text-[12.5px] text-ink-2">
        {label}
        {unit && <span className="unit">{unit}</span>}
      </label>
      {children}
      {error ? (
        <p id={`${id}-e`} role="alert" className="mt-[3px] text-[12.5px] font-semibold text-beet">
          {error}
        </p>
      ) : (
        hint && (
          <p id={`${id}-h`} className="mt-[3px] text-[12px] text-ink-3">
            {hint}
          </p>
        )
      )}
    </div>
  );
}

export function TextField({ label, error, hint, unit, className, ...rest }: FieldProps & Omit<ComponentProps<"input">, "id">) {
  const id = useId();
  return (
    <Frame {...{ label, error, hint, unit, className, id }}>
      <input
        id={id}
        className="field"
        aria-invalid={!!error}
        aria-describedby={error ? `${id}-e` : hint ? `${id}-h` : undefined}
        {...rest}
      />
    </Frame>
  );
}

export function AreaField({ label, error, hint, unit, className, ...rest }: FieldProps & Omit<ComponentProps<"textarea">, "id">) {
  const id = useId();
  return (
    <Frame {...{ label, error, hint, unit, className, id }}>
      <textarea
        id={id}
        className="field"
        aria-invalid={!!error}
        aria-describedby={error ? `${id}-e` : hint ? `${id}-h` : undefined}
        {...rest}
      />
    </Frame>
  );
}

export function SelectField({
  label,
  error,
  hint,
  unit,
  className,
  options,
  ...rest
}: FieldProps & { options: readonly (readonly [string, string])[] } & Omit<ComponentProps<"select">, "id">) {
  const id = useId();
  return (
    <Frame {...{ label, error, hint, unit, className, id }}>
      <select id={id} className="field" aria-invalid={!!error} {...rest}>
        {options.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </Frame>
  );
}

/** Reads a typed number: thin or plain spaces between thousands, point or comma. Null is no number. */
export function readNumber(text: string): number | null {
  const plain = text.replace(/[\s\u2009\u202f]/g, "").replace(",", ".");
  if (!/^-?(\d+\.?\d*|\.\d+)$/.test(plain)) return null;
  return Number(plain);
}

/**
 * A number that is typed as text and handed on when it is one; what is no number stays and is said. Where late is set it
 * is handed on when the field is left or Enter is pressed, else with every key.
 */
export function NumberField({
  value,
  onValue,
  error,
  allowEmpty = false,
  late = false,
  ...rest
}: FieldProps & { value: number | null; onValue: (n: number | null) => void; allowEmpty?: boolean; late?: boolean } & Omit<
    ComponentProps<"input">,
    "id" | "value" | "onChange"
  >) {
  const [text, setText] = useState(value === null ? "" : String(value));
  const [bad, setBad] = useState("");
  useEffect(() => {
    setText((now) => (readNumber(now) === value || (now === "" && value === null) ? now : value === null ? "" : String(value)));
    setBad("");
  }, [value]);
  const handOn = (t: string) => {
    const empty = t.trim() === "";
    const n = empty ? null : readNumber(t);
    setBad(empty ? (allowEmpty ? "" : "a number is needed here") : n === null ? `“${t}” is not a number` : "");
    if (n === value || (n === null && !(empty && allowEmpty))) return;
    onValue(n);
  };
  return (
    <TextField
      {...rest}
      inputMode="decimal"
      value={text}
      error={bad || error}
      onChange={(e) => {
        setText(e.target.value);
        if (!late) handOn(e.target.value);
      }}
      onBlur={late ? (e) => handOn(e.target.value) : undefined}
      onKeyDown={late ? (e) => e.key === "Enter" && handOn(e.currentTarget.value) : undefined}
    />
  );
}

export function Check({
  label,
  checked,
  onChange,
  disabled,
}: {
  label: ReactNode;
  checked: boolean;
  onChange: (v: boolean) => void;
  disabled?: boolean;
}) {
  return (
    <label className="flex min-h-7 items-center gap-2 text-[13.5px]">
      <input
        type="checkbox"
        className="size-[17px] accent-cobalt"
        checked={checked}
        disabled={disabled}
        onChange={(e) => onChange(e.target.checked)}
      />
      <span>{label}</span>
    </label>
  );
}

/** A dialog of paper over the glaze. What is submitted in it is no matter of a form that it was opened from. */
export function Modal({
  open,
  onClose,
  title,
  children,
  width = 520,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  width?: number;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="sheet fixed top-1/2 left-1/2 z-50 max-h-[88vh] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto p-6"
          style={{ width }}
          onSubmit={(e) => e.stopPropagation()}
        >
          <Dialog.Title className="mb-4 font-title text-[21px] leading-tight font-semibold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The foot of a dialog that is a form: what went wrong beside no field, the way out, and the one act. */
export function Foot({
  problem,
  leave = "Leave it",
  onLeave,
  look = "btn",
  disabled,
  children,
}: {
  problem: { title: string; fields: readonly unknown[] } | null;
  leave?: string;
  onLeave: () => void;
  look?: string;
  disabled?: boolean;
  children: ReactNode;
}) {
  return (
    <>
      {problem?.fields.length === 0 && (
        <p role="alert" className="mt-3 text-[13px] font-semibold text-beet">
          {problem.title}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn-line" onClick={onLeave}>
          {leave}
        </button>
        <button type="submit" className={look} disabled={disabled}>
          {children}
        </button>
      </div>
    </>
  );
}

/** The title line of a sheet: name, state, one main action. */
export function Head({ title, sub, state, children }: { title: ReactNode; sub?: ReactNode; state?: ReactNode; children?: ReactNode }) {
  return (
    <header className="flex min-h-[40px] items-center gap-[14px] max-[1000px]:flex-wrap max-[1000px]:gap-y-1">
      <h1
        title={typeof title === "string" ? title : undefined}
        className="min-w-0 truncate font-title text-[27px] leading-[1.25] font-semibold tracking-[-0.2px] max-[1000px]:whitespace-normal max-[760px]:text-[22px]"
      >
        {title}
      </h1>
      {sub && <span className="shrink-0 text-[14px] text-ink-2 max-[760px]:shrink">{sub}</span>}
      {state}
      <div className="ml-auto flex shrink-0 items-center gap-1">{children}</div>
    </header>
  );
}
