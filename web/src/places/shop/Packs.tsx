import { fieldMessage, type Problem, type Schemas } from "../../api/client";
import { TextField } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { silhouette } from "../labels/jar";
import type { Settings } from "./settings";

type Jar = Schemas["Jar"];
type Stock = Schemas["LabelStock"];

const SHAPES = [
  ["", "not measured"],
  ["round", "round"],
  ["sided", "flat sides"],
] as const;

const KINDS = [
  ["single", "single"],
  ["roll", "roll"],
  ["sheet", "sheet"],
] as const;

const PAGES = [
  ["A4", "A4"],
  ["Letter", "Letter"],
] as const;

/** The jars that the shop fills, with their sizes, and the papers that labels come on. */
export function Packs({ s, set, problem }: { s: Settings; set: (c: Partial<Settings>) => void; problem: Problem | null }) {
  const jars = s.jars ?? [];
  const stocks = s.stocks ?? [];
  const e = (name: string) => fieldMessage(problem, name);
  const putJar = (i: number, part: Partial<Jar>) => set({ jars: jars.map((j, k) => (k === i ? { ...j, ...part } : j)) });
  const putStock = (i: number, part: Partial<Stock>) => set({ stocks: stocks.map((j, k) => (k === i ? { ...j, ...part } : j)) });
  return (
    <section className="sheet col-span-2 p-5" aria-labelledby="packs">
      <h2 id="packs" className="phase text-lead">
        Jars and label paper
      </h2>
      <p className="mb-3 text-note text-ink-2">
        A jar's outer sizes tell the room for its label and, by law, the least size of type on it. Measure the height with the lid on, and
        the straight wall where a label lies flat.
      </p>
      <div className="grid gap-3">
        {jars.map((j, i) => (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: a jar is its row
            key={i}
            className="jar-row border-b border-rule-soft pb-2"
          >
            <Outline jar={j} />
            <TextField
              label="Jar"
              aria-label={`Name of jar ${i + 1}`}
              value={j.name}
              onChange={(x) => putJar(i, { name: x.target.value })}
              error={e(`jars[${i}].name`)}
            />
            <NumberField
              label="To the brim"
              aria-label={`Jar ${i + 1} holds`}
              unit="mL"
              measure="volume"
              value={j.ml}
              onValue={(n) => putJar(i, { ml: n ?? 0 })}
              error={e(`jars[${i}].ml`)}
            />
            <SelectField
              label="Shape"
              aria-label={`Shape of jar ${i + 1}`}
              value={j.shape ?? ""}
              options={SHAPES}
              onValue={(shape) => putJar(i, { shape, ...guess(j, shape) })}
            />
            <div>{j.shape && <Sizes j={j} i={i} put={(part) => putJar(i, part)} e={e} />}</div>
            <button
              type="button"
              className="btn-quiet px-2! text-beet!"
              aria-label={`Take ${j.name} off the list`}
              onClick={() => set({ jars: jars.filter((_, k) => k !== i) })}
            >
              ✕
            </button>
          </div>
        ))}
      </div>
      {e("jars") && <p className="mt-2 text-note font-semibold text-beet">{e("jars")}</p>}
      <button
        type="button"
        className="btn-quiet"
        onClick={() => set({ jars: [...jars, { id: "", name: `Jar ${jars.length + 1}`, ml: 200 }] })}
      >
        Add a jar
      </button>
      <div className="mt-4 grid gap-3 border-t border-rule pt-4">
        {stocks.map((k, i) => (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: a paper is its row
            key={i}
            className="grid grid-cols-[minmax(0,1fr)_110px_repeat(2,84px)_36px] items-end gap-2 border-b border-rule-soft pb-2 max-phone:grid-cols-[repeat(3,minmax(0,1fr))_30px] max-phone:[&>:first-child]:col-span-4"
          >
            <TextField
              label="Paper"
              aria-label={`Name of paper ${i + 1}`}
              value={k.name}
              onChange={(x) => putStock(i, { name: x.target.value })}
              error={e(`stocks[${i}].name`)}
            />
            <SelectField
              label="Comes as"
              aria-label={`Kind of paper ${i + 1}`}
              value={k.kind}
              options={KINDS}
              onValue={(kind) =>
                putStock(i, { kind, ...(kind === "sheet" && !k.page ? { page: "A4", columns: 2, rows: 4, left_mm: 8, top_mm: 12 } : {}) })
              }
            />
            <NumberField
              label="Label wide"
              aria-label={`Paper ${i + 1}: label wide`}
              unit="mm"
              value={k.width_mm}
              onValue={(n) => putStock(i, { width_mm: n ?? 0 })}
              error={e(`stocks[${i}].width_mm`)}
            />
            <NumberField
              label="high"
              aria-label={`Paper ${i + 1}: label high`}
              unit="mm"
              value={k.height_mm}
              onValue={(n) => putStock(i, { height_mm: n ?? 0 })}
            />
            <button
              type="button"
              className="btn-quiet px-2! text-beet!"
              aria-label={`Take ${k.name} off the list`}
              onClick={() => set({ stocks: stocks.filter((_, n) => n !== i) })}
            >
              ✕
            </button>
            {k.kind === "sheet" && <SheetFields k={k} i={i} put={(part) => putStock(i, part)} e={e} />}
          </div>
        ))}
        <button
          type="button"
          className="btn-quiet justify-self-start"
          onClick={() =>
            set({ stocks: [...stocks, { id: "", name: `Paper ${stocks.length + 1}`, kind: "single", width_mm: 95, height_mm: 65 }] })
          }
        >
          Add a paper
        </button>
      </div>
    </section>
  );
}

/** Sizes to begin with where a jar is measured: about what its volume comes to. */
export function guess(j: Jar, shape: string): Partial<Jar> {
  if (!shape || j.height_mm) return {};
  const across = Math.round(Math.cbrt(j.ml * 1000 * 1.05));
  return {
    height_mm: Math.round(across * 1.55),
    lid_mm: 13,
    wall_mm: Math.round(across * 0.95),
    diameter_mm: across,
    width_mm: across,
    depth_mm: across,
  };
}

interface Part<T> {
  i: number;
  put: (part: Partial<T>) => void;
  e: (name: string) => string | undefined;
}

function Sizes({ j, i, put, e }: Part<Jar> & { j: Jar }) {
  const field = (key: "height_mm" | "diameter_mm" | "width_mm" | "depth_mm" | "lid_mm" | "wall_mm", label: string) => (
    <NumberField
      label={label}
      aria-label={`Jar ${i + 1}: ${label.toLowerCase()}`}
      unit="mm"
      value={j[key] ?? 0}
      onValue={(n) => put({ [key]: n ?? 0 })}
      error={e(`jars[${i}].${key}`)}
    />
  );
  return (
    <>
      {j.shape === "round" ? field("diameter_mm", "Across") : field("width_mm", "Front")}
      {j.shape === "round" ? <span /> : field("depth_mm", "Side")}
      {field("height_mm", "High")}
      {field("lid_mm", "Lid")}
      {field("wall_mm", "Wall")}
    </>
  );
}

function SheetFields({ k, i, put, e }: Part<Stock> & { k: Stock }) {
  const field = (key: "columns" | "rows" | "left_mm" | "top_mm" | "gap_x_mm" | "gap_y_mm", label: string) => (
    <NumberField
      label={label}
      aria-label={`Paper ${i + 1}: ${label.toLowerCase()}`}
      unit={key.endsWith("mm") ? "mm" : undefined}
      value={k[key] ?? 0}
      onValue={(n) => put({ [key]: n ?? 0 })}
      error={e(`stocks[${i}].${key}`)}
    />
  );
  return (
    <div className="col-span-5 grid grid-cols-[110px_repeat(6,minmax(0,96px))] items-end gap-2 pl-6 max-phone:col-span-4 max-phone:grid-cols-3 max-phone:pl-0">
      <SelectField
        label="Page"
        aria-label={`Paper ${i + 1}: page`}
        value={k.page ?? "A4"}
        options={PAGES}
        onValue={(page) => put({ page })}
      />
      {field("columns", "Columns")}
      {field("rows", "Rows")}
      {field("left_mm", "Left edge")}
      {field("top_mm", "Top edge")}
      {field("gap_x_mm", "Gap across")}
      {field("gap_y_mm", "Gap down")}
    </div>
  );
}

/** The jar in outline, all to one scale. */
function Outline({ jar }: { jar: Jar }) {
  if (!jar.shape) return <span />;
  const s = silhouette(jar);
  return (
    <svg viewBox="0 0 100 200" className="h-15.5 w-10 self-center" aria-hidden="true">
      <g transform={`translate(${50 - s.wide / 2} ${198 - s.high})`} fill="#fff" stroke="#152c6b" strokeWidth="2.500">
        <path d={s.path} />
        <rect x={s.lidLeft} y="0" width={Math.max(0, s.wide - 2 * s.lidLeft)} height={s.lid} rx="2" />
        <path d={`M0 ${s.wallTop}H${s.wide}M0 ${s.wallTop + s.wall}H${s.wide}`} stroke="#9fb2dd" strokeWidth="1.500" />
      </g>
    </svg>
  );
}
