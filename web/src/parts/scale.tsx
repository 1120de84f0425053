import { useDevices, useLive } from "../api/queries/devices";
import { useFormats } from "./shop";

/** The bench scale beside the fields: a steady weight goes into the next empty one. */
export function FromScale({ what, onTake }: { what: string; onTake: (grams: number, scale: string) => void }) {
  const { num } = useFormats();
  const scale = useDevices().data?.find((d) => d.kind === "scale" && d.counts);
  const r = useLive(scale?.id);
  if (!scale || !what) return null;
  const ready = !!r?.answers && !r.fault && !r.over && r.steady && r.value > 0;
  return (
    <p className="mt-3 flex flex-wrap items-center gap-3 text-body text-ink-2">
      <button type="button" className="btn-line min-h-12" disabled={!ready} onClick={() => r && onTake(r.value, scale.name)}>
        Take {what} from the scale
      </button>
      <span role="status">
        {scale.name}{" "}
        {r === null
          ? "…"
          : !r.answers
            ? "does not answer; type the weights"
            : r.over
              ? "carries too much"
              : r.fault
                ? `says: ${r.fault}`
                : `reads ${num(r.value, 1)} g, ${r.steady ? "steady" : "settling"}`}
      </span>
    </p>
  );
}
