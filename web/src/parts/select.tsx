import { Select as Radix } from "radix-ui";
import { useId, useMemo, useState } from "react";
import { type FieldProps, Frame } from "./form";

interface ChoiceProps {
  value: string;
  onValue: (v: string) => void;
  options: readonly (readonly [string, string])[];
  disabled?: boolean;
  autoFocus?: boolean;
  "aria-label"?: string;
  "aria-invalid"?: boolean;
  "aria-describedby"?: string;
  id?: string;
  className?: string;
}

/** No choice is a choice too; the list itself knows no empty value. */
const NONE = " ";

/** One of several, chosen from a list of paper: keyboard, first letters and pointer. */
export function Select({ value, onValue, options, className = "field", ...rest }: ChoiceProps) {
  // A list may be as long as the zones of the world, and the library draws it while it is closed too. It is drawn once
  // somebody comes to it, and again only where it changes.
  const [met, setMet] = useState(false);
  const items = useMemo(
    () =>
      met &&
      options.map(([v, text]) => (
        <Radix.Item
          key={v}
          value={v === "" ? NONE : v}
          data-value={v}
          className="flex min-h-9 cursor-default items-center rounded-sm py-1 pr-3 pl-7 text-body outline-none select-none data-[highlighted]:bg-cobalt-tint data-[state=checked]:font-semibold"
        >
          <Radix.ItemIndicator className="-ml-5 w-5 text-cobalt">
            <svg width="11" height="10" viewBox="0 0 12 11" aria-hidden="true">
              <path d="M1 6l3.500 4L11 2.500 9.500 1 4.500 7 2.500 4.500z" fill="currentColor" />
            </svg>
          </Radix.ItemIndicator>
          <Radix.ItemText>{text}</Radix.ItemText>
        </Radix.Item>
      )),
    [met, options],
  );
  return (
    <Radix.Root value={value === "" ? NONE : value} onValueChange={(v) => onValue(v === NONE ? "" : v)} disabled={rest.disabled}>
      <Radix.Trigger
        {...rest}
        type="button"
        data-value={value}
        onFocus={() => setMet(true)}
        onPointerEnter={() => setMet(true)}
        className={`${className} flex items-center justify-between gap-2 text-left`}
      >
        <span className="truncate">
          <Radix.Value>{options.find(([v]) => v === value)?.[1]}</Radix.Value>
        </span>
        <Radix.Icon asChild>
          <svg width="10" height="6" viewBox="0 0 10 6" aria-hidden="true" className="shrink-0 text-cobalt">
            <path d="M0 0h10L5 6z" fill="currentColor" />
          </svg>
        </Radix.Icon>
      </Radix.Trigger>
      {met && (
        <Radix.Portal>
          <Radix.Content
            position="popper"
            sideOffset={3}
            className="sheet z-70 max-h-[min(380px,var(--radix-select-content-available-height))] min-w-[var(--radix-select-trigger-width)] overflow-hidden"
          >
            <Radix.Viewport className="p-1">{items}</Radix.Viewport>
          </Radix.Content>
        </Radix.Portal>
      )}
    </Radix.Root>
  );
}

export function SelectField({
  label,
  error,
  hint,
  unit,
  className,
  ...rest
}: FieldProps & Omit<ChoiceProps, "id" | "className" | "aria-invalid" | "aria-describedby">) {
  const id = useId();
  return (
    <Frame {...{ label, error, hint, unit, className, id }}>
      <Select id={id} aria-invalid={!!error} aria-describedby={error ? `${id}-e` : hint ? `${id}-h` : undefined} {...rest} />
    </Frame>
  );
}
