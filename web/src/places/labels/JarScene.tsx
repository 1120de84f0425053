import { useEffect, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../parts/width";
import { lighter, overlapping, type Strip, silhouette, wrapped } from "./jar";

type View = Schemas["LabelView"];

/** A drawing as an address that an image may have. */
export const drawn = (svg: string) => `data:image/svg+xml;utf8,${encodeURIComponent(svg)}`;

/** A drawing as a short address, for as long as it is shown: it may be drawn in many strips. */
function useDrawing(svg: string): string {
  const [href, setHref] = useState("");
  useEffect(() => {
    const url = URL.createObjectURL(new Blob([svg], { type: "image/svg+xml" }));
    setHref(url);
    return () => URL.revokeObjectURL(url);
  }, [svg]);
  return href;
}

interface Worn {
  jar: Schemas["Jar"];
  svg: string;
  size: { width_mm: number; height_mm: number };
  /** The place of the label that faces the eye, from its left. */
  middle: number;
  level: number;
  tint: string;
}

/** A jar that wears a label, in mm, its lower left corner at 0 0. */
export function WornJar({ jar, svg, size, middle, level, tint }: Worn) {
  const id = useId();
  const href = useDrawing(svg);
  const s = silhouette(jar);
  const top = s.wallTop + (s.wall - size.height_mm) / 2;
  const inside = s.high - s.lid;
  const fill = s.lid + inside * (1 - Math.min(0.97, Math.max(0.1, level)));
  const radius = s.wide / 2;
  return (
    <g transform={`translate(0 ${-s.high})`}>
      <defs>
        <clipPath id={`${id}-body`}>
          <path d={s.path} />
        </clipPath>
      </defs>
      <ellipse cx={radius} cy={s.high + 0.6} rx={radius * 1.05} ry={2} fill="#16202e" opacity="0.13" />
      <g clipPath={`url(#${CSS.escape(id)}-body)`}>
        <rect width={s.wide} height={s.high} fill="#f7fafb" />
        <rect y={fill} width={s.wide} height={s.high} fill={lighter(tint, 0.52)} />
        <rect y={fill} width={s.wide} height={Math.min(5, s.high * 0.05)} fill={lighter(tint, 0.38)} />
        {jar.shape === "round" && (
          <Underlay strips={wrapped(size.width_mm, middle, radius)} radius={radius} top={top} high={size.height_mm} />
        )}
        {jar.shape === "round" ? (
          overlapping(wrapped(size.width_mm, middle, radius), SEAM_MM).map((p) => (
            <svg
              key={p.at}
              aria-hidden="true"
              x={radius + p.x}
              y={top}
              width={p.seen}
              height={size.height_mm}
              viewBox={`${p.at} 0 ${p.wide} ${size.height_mm}`}
              preserveAspectRatio="none"
            >
              {href && <image href={href} width={size.width_mm} height={size.height_mm} preserveAspectRatio="none" />}
            </svg>
          ))
        ) : (
          <g transform={`translate(${radius - middle} ${top})`}>
            <rect width={size.width_mm} height={size.height_mm} fill="#fdfdfa" />
            {href && <image href={href} width={size.width_mm} height={size.height_mm} />}
          </g>
        )}
        {jar.shape === "round" && <Shade wide={s.wide} top={s.lid} high={s.high} />}
      </g>
      <path d={s.path} fill="none" stroke="#152c6b" strokeWidth="0.7" />
      <rect x={s.lidLeft} y={0.35} width={s.wide - 2 * s.lidLeft} height={s.lid} rx="1" fill="#fdfdfa" stroke="#152c6b" strokeWidth="0.7" />
    </g>
  );
}

/** By how much a strip lies over its neighbour, so that no seam shows. */
const SEAM_MM = 0.4;

/** The paper under the strips of a label. */
function Underlay({ strips, radius, top, high }: { strips: readonly Strip[]; radius: number; top: number; high: number }) {
  const [first, last] = [strips[0], strips[strips.length - 1]];
  return <rect x={radius + first.x} y={top} width={last.x + last.seen - first.x} height={high} fill="#fdfdfa" />;
}

/** Two shades where a round jar turns away. */
function Shade({ wide, top, high }: { wide: number; top: number; high: number }) {
  return (
    <g fill="#16202e" opacity="0.06">
      {[0.035, 0.08].map((share) => (
        <path
          key={share}
          d={`M0 ${top}h${wide * share}v${high}h${-wide * share}zM${wide} ${top}h${-wide * share}v${high}h${wide * share}z`}
        />
      ))}
    </g>
  );
}

/** px of a millimetre on paper of the screen (CSS). */
export const PX_PER_MM = 96 / 25.4;

const [WIDE, HIGH, FOOT] = [760, 464, 48];

/** Front and back on the jar, drawn to scale. */
export function JarScene({ v }: { v: View }) {
  const jar = v.jar;
  const [figure, seen] = useWidth<HTMLElement>(WIDE);
  if (!jar) return null;
  const s = silhouette(jar);
  const apart = Math.max(26, s.wide * 0.5);
  const k = Math.min((HIGH - FOOT - 46) / (s.high + 2), (WIDE - 150) / (2 * s.wide + apart));
  const floor = HIGH - FOOT;
  const size = { width_mm: v.width_mm, height_mm: v.height_mm };
  const front = v.faces.find((f) => f.name === "front");
  const back = v.faces.find((f) => f.name === "back");
  const shown = [front, back].filter((f) => f !== undefined);
  const all = shown.length * s.wide + (shown.length - 1) * apart;
  const left = (WIDE - all * k) / 2;
  const labelTop = floor - (s.high - s.wallTop - (s.wall - v.height_mm) / 2) * k;
  const ruler = left + s.wide * k + 18;
  const times = (k * seen) / WIDE / PX_PER_MM;
  return (
    <figure ref={figure} className="relative m-0">
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        className="block w-full"
        role="img"
        aria-label={`${v.formula_name} on ${jar.name}, front and back`}
      >
        <rect width={WIDE} height={HIGH} fill="#eef2f4" />
        <rect y={floor - 34} width={WIDE} height={HIGH} fill="#dfe6ea" />
        {shown.map((f, i) => (
          <g key={f.name} transform={`translate(${left + i * (s.wide + apart) * k} ${floor}) scale(${k})`}>
            <WornJar jar={jar} svg={v.pieces[f.piece].svg} size={size} middle={f.x_mm + f.width_mm / 2} level={v.level} tint={v.tint} />
          </g>
        ))}
        {v.hold && (
          <g>
            <rect x="16" y="74" width="150" height={(150 * v.height_mm) / v.width_mm} fill="#fff" stroke="#c9d2da" />
            <image href={drawn(v.sticker)} x="16" y="74" width="150" height={(150 * v.height_mm) / v.width_mm} />
            <text x="16" y="66" fontSize="12.5" fill="#a12a3a" fontWeight="600">
              what is printed now
            </text>
          </g>
        )}
        <g stroke="#6b7686" strokeWidth="1">
          <path d={`M${ruler} ${labelTop}v${v.height_mm * k}M${ruler - 5} ${labelTop}h10M${ruler - 5} ${labelTop + v.height_mm * k}h10`} />
          <text x={ruler + 9} y={labelTop + (v.height_mm * k) / 2 + 4} stroke="none" fill="#4a5667" fontSize="12">
            {v.height_mm} mm
          </text>
        </g>
      </svg>
      <figcaption className="absolute inset-x-4 bottom-2 flex justify-between text-note text-ink-2">
        <span>front, as it faces the buyer</span>
        <span>
          {Math.abs(times - 1) < 0.05
            ? "real size"
            : `drawn to scale, ${times.toLocaleString(undefined, { maximumFractionDigits: 1 })} times real size`}
        </span>
        <span>{back ? "back" : ""}</span>
      </figcaption>
    </figure>
  );
}

/** The pieces of paper flat, at their real size. What is beyond the edge of the paper does not fit. */
export function Flat({ v }: { v: View }) {
  const pieces = v.hold ? [{ name: "HOLD sticker", svg: v.sticker, high_mm: v.height_mm }, ...v.pieces] : v.pieces;
  return (
    <figure className="m-0">
      <section
        className="flex max-h-110 flex-wrap gap-5 overflow-auto bg-glaze px-6 pt-14 pb-6"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and must do so by keyboard too
        tabIndex={0}
        aria-label="The label, flat"
      >
        {pieces.map((p) => (
          <div key={p.name} className="mx-auto shrink-0">
            <div
              className="bg-white shadow-lift [&_svg]:block"
              style={{ width: `${v.width_mm}mm`, height: `${p.high_mm}mm` }}
              // biome-ignore lint/security/noDangerouslySetInnerHtml: the drawing comes from our own server, every word in it as a path or escaped
              dangerouslySetInnerHTML={{ __html: p.svg }}
            />
            <p className="mt-1 text-center text-note text-ink-2">{p.name}</p>
          </div>
        ))}
      </section>
      <figcaption className="px-4 py-2 text-center text-note text-ink-2">
        real size, {v.width_mm} × {v.height_mm} mm{v.fits ? "" : "; what is tinted lies beyond the paper"}
      </figcaption>
    </figure>
  );
}
