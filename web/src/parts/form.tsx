import { Dialog } from "radix-ui";
import { type ComponentProps, type ReactNode, useId, useRef } from "react";

export interface FieldProps {
  label: string;
  error?: string;
  hint?: ReactNode;
  unit?: string;
  className?: string;
}

export function Frame({ label, error, hint, unit, className, id, children }: FieldProps & { id: string; children: ReactNode }) {
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-1 block text-note text-ink-2">
        {label}
        {unit && <span className="unit">{unit}</span>}
      </label>
      {children}
      {error ? (
        <p id={`${id}-e`} role="alert" className="mt-1 text-note font-semibold text-beet">
          {error}
        </p>
      ) : (
        hint && (
          <p id={`${id}-h`} className="mt-1 text-note text-ink-3">
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
    <label className="flex min-h-7 items-center gap-2 text-body">
      <input
        type="checkbox"
        className="size-4.25 accent-cobalt"
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
  calm = false,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  width?: number;
  /** Opens with the focus on its title: no button is the default. */
  calm?: boolean;
}) {
  const heading = useRef<HTMLHeadingElement>(null);
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="sheet fixed top-1/2 left-1/2 z-50 max-h-[88vh] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto p-6"
          style={{ width }}
          onSubmit={(e) => e.stopPropagation()}
          onOpenAutoFocus={(e) => {
            if (!calm) return;
            e.preventDefault();
            heading.current?.focus();
          }}
        >
          <Dialog.Title ref={heading} tabIndex={calm ? -1 : undefined} className="mb-4 font-title text-title leading-tight font-semibold">
            {title}
          </Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** What was refused beside no field of a form; it stands after them. */
export function Refused({ entry, className = "text-note" }: { entry: { rest: () => { title: string } | null }; className?: string }) {
  const rest = entry.rest();
  return (
    rest && (
      <p role="alert" className={`font-semibold text-beet ${className}`}>
        {rest.title}
      </p>
    )
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
        <p role="alert" className="mt-3 text-note font-semibold text-beet">
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
    <header className="flex min-h-10 items-center gap-3.5 max-desk:flex-wrap max-desk:gap-y-1">
      <h1
        title={typeof title === "string" ? title : undefined}
        className="min-w-0 truncate font-title text-display leading-tight font-semibold tracking-tight max-tablet:whitespace-normal max-tablet:text-title"
      >
        {title}
      </h1>
      {sub && <span className="shrink-0 text-body text-ink-2 max-tablet:shrink">{sub}</span>}
      {state}
      <div className="ml-auto flex shrink-0 items-center gap-1">{children}</div>
    </header>
  );
}
