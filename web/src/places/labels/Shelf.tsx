import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useLabel } from "../../api/queries/labels";
import { State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { allergenWords } from "../formulas/Panel";
import { drawn, WornJar } from "./JarScene";
import { silhouette } from "./jar";

type Row = Schemas["LabelRow"];

/** What must not be used stands first, then what is out of date. */
const ORDER = ["stop_using", "out_of_date", "current"];

const shelved = <T extends { state: string }>(rows: readonly T[]) =>
  [...rows].sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state));

/** The labels on their jars, standing on a shelf, all to one scale. */
export function Shelf({ labels }: { labels: readonly Row[] }) {
  return (
    <ul className="mt-5 grid grid-cols-[repeat(auto-fill,minmax(208px,1fr))] gap-y-7">
      {shelved(labels).map((l) => (
        <li key={l.id}>
          <OnShelf l={l} />
        </li>
      ))}
    </ul>
  );
}

const [WIDE, HIGH, PX_PER_MM] = [200, 236, 2];

function OnShelf({ l }: { l: Row }) {
  const { shop } = useFormats();
  const v = useLabel(l.id, 0).data;
  const law = shop.laws.find((x) => x.regime === l.regime)?.title ?? l.regime;
  return (
    <Link to={`/labels/${l.id}`} className="group block">
      <svg viewBox={`0 0 ${WIDE} ${HIGH}`} className="block h-59 w-full" preserveAspectRatio="xMidYMax meet" aria-hidden="true">
        {v?.id === l.id && (v.jar ? <Standing v={v} /> : <Lying v={v} />)}
      </svg>
      <span className="block border-t-5 border-rule px-3 pt-2 group-hover:border-cobalt">
        <span className="block font-title text-lead leading-tight font-semibold group-hover:text-cobalt">{l.formula_name}</span>
        <span className="mt-0.5 block text-note text-ink-2">
          {law}, version {l.version}
          {l.newest_locked > l.version ? `, newest is ${l.newest_locked}` : ""}
        </span>
        <span className="block text-note text-ink-2">
          {l.width_mm} × {l.height_mm} mm
        </span>
        <span className="mt-1 block">
          <State of={l.state} />
        </span>
        {l.allergens_gained.length > 0 && (
          <span className="mt-1 block text-note font-semibold text-beet">does not name {allergenWords(l.allergens_gained)}</span>
        )}
      </span>
    </Link>
  );
}

function Standing({ v }: { v: Schemas["LabelView"] }) {
  const jar = v.jar;
  const face = v.faces[0];
  if (!jar || !face) return null;
  const s = silhouette(jar);
  const k = Math.min(PX_PER_MM, (HIGH - 12) / s.high);
  return (
    <g transform={`translate(${WIDE / 2 - (s.wide * k) / 2} ${HIGH - 4}) scale(${k})`}>
      <WornJar jar={jar} svg={v.pieces[face.piece].svg} size={v} middle={face.x_mm + face.width_mm / 2} level={v.level} tint={v.tint} />
    </g>
  );
}

/** A label whose jar nobody chose lies on the shelf. */
function Lying({ v }: { v: Schemas["LabelView"] }) {
  const k = Math.min(PX_PER_MM * 1.2, (WIDE - 8) / v.width_mm);
  return (
    <g transform={`translate(${(WIDE - v.width_mm * k) / 2} ${HIGH - 6 - v.height_mm * k}) scale(${k})`}>
      <rect width={v.width_mm} height={v.height_mm} fill="#fdfdfa" stroke="#c9d2da" strokeWidth="0.5" />
      <image href={drawn(v.pieces[0].svg)} width={v.width_mm} height={v.pieces[0].high_mm} />
    </g>
  );
}
