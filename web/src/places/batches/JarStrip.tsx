import { byPlace, type JarsAt, placeWord } from "./jarPlaces";

const TINTS: Record<string, string> = {
  filled: "bg-wash",
  untold: "bg-glaze-deep",
  cold_room: "bg-cobalt",
  samples: "bg-acid",
  with: "bg-leaf",
  returned: "bg-mustard",
  withdrawn: "bg-ink-2",
  broken: "bg-ink-3",
  opened: "bg-other",
};

/** All jars of a batch as one strip, in the order of a jar's way; each part says how many where there is room. */
export function JarStrip({ at, height = 22 }: { at: readonly JarsAt[]; height?: number }) {
  const parts = byPlace(at);
  const all = parts.reduce((s, x) => s + x.jars, 0);
  return (
    <div
      role="img"
      aria-label={parts.map((x) => `${x.jars} ${placeWord(x.place)}`).join(", ")}
      className="flex border border-rule-strong bg-white"
      style={{ height }}
    >
      {parts.map((x) => (
        <span
          key={x.place}
          title={`${x.jars} ${placeWord(x.place)}`}
          className={`flex items-center justify-center overflow-hidden border-r border-white text-note font-semibold last:border-r-0 ${TINTS[x.place]} ${x.place === "untold" || x.place === "filled" || x.place === "opened" ? "text-ink" : "text-white"}`}
          style={{ width: `${(100 * x.jars) / all}%` }}
        >
          {x.jars / all >= 0.07 ? x.jars : ""}
        </span>
      ))}
    </div>
  );
}

/** The tint of a place, beside its word. */
export function JarTint({ place }: { place: string }) {
  return <span aria-hidden className={`mr-2 inline-block size-2.75 border border-rule-strong ${TINTS[place]}`} />;
}

/** The places that a strip shows, with their tints. */
export function JarKey({ at }: { at: readonly JarsAt[] }) {
  return (
    <ul className="flex flex-wrap gap-x-4 gap-y-1 text-note text-ink-2">
      {byPlace(at).map((x) => (
        <li key={x.place} className="flex items-center gap-0.5">
          <JarTint place={x.place} />
          {placeWord(x.place)} <b className="ml-1 text-ink">{x.jars}</b>
        </li>
      ))}
    </ul>
  );
}
