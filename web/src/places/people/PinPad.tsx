import { useEffect, useId, useRef } from "react";

export const PIN_DIGITS = 6;

/** Six wells that fill as the PIN is typed, and digits large enough for wet hands. */
export function PinPad({
  label,
  value,
  onValue,
  disabled,
  error,
}: {
  label: string;
  value: string;
  onValue: (pin: string) => void;
  disabled?: boolean;
  error: string;
}) {
  const id = useId();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (!disabled) input.current?.focus();
  }, [disabled]);
  const type = (d: string) => onValue(value.length < PIN_DIGITS ? value + d : value);
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-body text-ink-2">
        {label}
      </label>
      <div className="relative">
        <input
          id={id}
          type="password"
          inputMode="numeric"
          autoComplete="current-password"
          ref={input}
          disabled={disabled}
          value={value}
          maxLength={PIN_DIGITS}
          aria-invalid={!!error}
          aria-describedby={error ? `${id}-e` : undefined}
          onChange={(e) => onValue(e.target.value.replace(/\D/g, ""))}
          className="absolute inset-0 w-full cursor-text opacity-0"
        />
        <div aria-hidden className="flex justify-between gap-2 rounded-md focus-within:outline-2">
          {Array.from({ length: PIN_DIGITS }, (_, i) => (
            <span
              // biome-ignore lint/suspicious/noArrayIndexKey: the wells have no other name than their place
              key={i}
              className={`flex h-11.5 flex-1 items-end overflow-hidden rounded-b-lg rounded-t-sm border-2 ${error ? "border-beet" : i === value.length ? "border-cobalt" : "border-rule-strong"} bg-white`}
            >
              <span className={`w-full bg-cobalt transition-[height] duration-150 ${i < value.length ? "h-[72%]" : "h-0"}`} />
            </span>
          ))}
        </div>
      </div>
      <p id={`${id}-e`} role="alert" className="mt-2 min-h-5 text-body font-semibold text-beet">
        {error}
      </p>
      <div className="mt-1 grid grid-cols-3 gap-2">
        {["1", "2", "3", "4", "5", "6", "7", "8", "9", "", "0", "⌫"].map((d) =>
          d === "" ? (
            <span key="none" />
          ) : (
            <button
              key={d}
              type="button"
              tabIndex={-1}
              disabled={disabled}
              aria-label={d === "⌫" ? "take one back" : d}
              onClick={() => (d === "⌫" ? onValue(value.slice(0, -1)) : type(d))}
              className="h-14 rounded-md border border-rule bg-white text-title font-medium hover:border-cobalt hover:bg-cobalt-tint active:bg-cobalt-pale disabled:opacity-50"
            >
              {d}
            </button>
          ),
        )}
      </div>
    </div>
  );
}
