import { useEffect, useRef } from "react";

/** A colour of one's own. It is handed on once chosen, not while the pointer moves over the choices. */
export function Colour({ label, value, onChosen }: { label: string; value: string; onChosen: (colour: string) => void }) {
  const field = useRef<HTMLInputElement>(null);
  const tell = useRef(onChosen);
  tell.current = onChosen;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another value is another field
  useEffect(() => {
    const input = field.current;
    const chosen = () => input && tell.current(input.value);
    input?.addEventListener("change", chosen); // React's own event comes with every step of the pointer
    return () => input?.removeEventListener("change", chosen);
  }, [value]);
  return <input key={value} ref={field} type="color" aria-label={label} className="size-8 cursor-pointer" defaultValue={value} />;
}
