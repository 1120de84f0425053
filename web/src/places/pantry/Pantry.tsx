import { useMemo, useRef, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useIngredients } from "../../api/queries/pantry";
import { Head } from "../../parts/form";
import { MakeUpBar } from "../../parts/makeup";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { AddIngredient } from "./AddIngredient";
import { IngredientPage } from "./IngredientPage";
import { PriceFile } from "./PriceFile";

type Row = Schemas["IngredientRow"];

export default function Pantry() {
  const { id } = useParams();
  const list = useIngredients();
  const [text, setText] = useState("");
  const [retired, setRetired] = useState(false);
  const [params, setParams] = useSearchParams();
  const [adding, setAdding] = useState(params.get("new") === "1");
  const { money, shop } = useFormats();
  const rows = useMemo(() => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    return (list.data ?? []).filter(
      (g) =>
        g.retired === retired &&
        words.every((w) =>
          `${g.name} ${g.called.join(" ")} ${g.role} ${Object.values(g.allergens).flat().join(" ")}`.toLowerCase().includes(w),
        ),
    );
  }, [list.data, text, retired]);
  if (list.isPending) return <Loading what="the pantry" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const food = rows.filter((g) => g.role !== "packaging");
  const inUse = food.filter((g) => g.used > 0);
  const others = food.filter((g) => g.used === 0);
  const packs = rows.filter((g) => g.role === "packaging");
  const shownID = id ?? inUse[0]?.id ?? rows[0]?.id;
  const group = (title: string, items: Row[]) =>
    items.length > 0 && (
      <>
        <li className="phase sticky top-0 z-10 border-b border-rule bg-paper px-3 pt-2 pb-1 text-body">{title}</li>
        {items.map((g) => (
          <li key={g.id}>
            <Link
              to={`/pantry/${g.id}`}
              aria-current={g.id === shownID ? "page" : undefined}
              className={`grid grid-cols-[minmax(0,1fr)_64px_54px] items-center max-desk:grid-cols-[minmax(0,1fr)_54px] gap-2 border-b border-b-rule-soft px-3 py-2 hover:bg-cobalt-tint ${g.id === shownID ? "border-l-4 border-l-cobalt bg-cobalt-tint pl-2 font-semibold" : ""}`}
            >
              <span className="truncate">{g.name}</span>
              <span className="max-desk:hidden">
                <MakeUpBar makeUp={g.make_up} scale={0.6} height={9} max={64} />
              </span>
              <span
                className={`text-right text-note ${g.stale ? "text-mustard-ink" : "text-ink-2"}`}
                title={g.stale ? "an old price" : undefined}
              >
                {g.per_kg == null ? <span className="text-ink-3">—</span> : money(g.per_kg)}
              </span>
            </Link>
          </li>
        ))}
      </>
    );
  return (
    <div className="flex h-full flex-col px-6 pt-4 max-tablet:h-auto max-tablet:px-3">
      <Head title="Pantry" sub={counted(list.data)}>
        <Link to="/stock" className="btn-quiet inline-flex items-center">
          Stock
        </Link>
        <Link to="/preparations" className="btn-quiet inline-flex items-center">
          Preparations
        </Link>
        <Link to="/allergens" className="btn-quiet inline-flex items-center">
          Allergens
        </Link>
        <PriceFiles />
        <button type="button" className="btn" onClick={() => setAdding(true)}>
          Add an ingredient
        </button>
      </Head>
      <div className="mt-3 grid min-h-0 flex-1 grid-cols-[320px_minmax(0,1fr)] gap-5 pb-4 max-desk:grid-cols-[256px_minmax(0,1fr)] max-desk:gap-4 max-tablet:grid-cols-1">
        <section className="sheet flex min-h-0 flex-col" aria-label="Ingredients">
          <div className="border-b border-rule p-3">
            <input
              type="search"
              aria-label="Search the pantry"
              placeholder="Name, kind or allergen"
              className="field"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <div className="mt-2 flex items-center justify-between text-note text-ink-2">
              <label className="flex min-h-6 items-center gap-2">
                <input type="checkbox" checked={retired} onChange={(e) => setRetired(e.target.checked)} className="accent-cobalt" /> retired
                ones
              </label>
              <span>{shop.currency} a usable kg</span>
            </div>
          </div>
          <ul className="min-h-0 flex-1 overflow-y-auto max-tablet:max-h-[40vh]">
            {group("In your formulas", inUse)}
            {group("Others on the shelf", others)}
            {group("For the pack, by the piece", packs)}
            {rows.length === 0 && <li className="p-4 text-ink-2">{text ? `Nothing is called “${text}”.` : "None."}</li>}
          </ul>
        </section>
        <div className="min-h-0 overflow-y-auto pr-1">
          {shownID ? <IngredientPage key={shownID} id={shownID} /> : <p className="text-ink-2">Choose an ingredient.</p>}
        </div>
      </div>
      {adding && (
        <AddIngredient
          called={params.get("name") ?? ""}
          onClose={() => {
            setAdding(false);
            setParams({}, { replace: true });
          }}
        />
      )}
    </div>
  );
}

/** How much there is, food and pack apart. */
function counted(list: Row[]): string {
  const there = list.filter((g) => !g.retired);
  const packs = there.filter((g) => g.role === "packaging").length;
  return `${there.length - packs} ingredients${packs > 0 ? `, ${packs} for the pack` : ""}`;
}

/** Prices out as one list, and in as suppliers send them. */
function PriceFiles() {
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  return (
    <>
      <a className="btn-quiet inline-flex items-center" href="/api/prices" download>
        Price list out
      </a>
      <button type="button" className="btn-quiet" onClick={() => input.current?.click()}>
        Price list in
      </button>
      <input
        ref={input}
        type="file"
        accept=".csv,.txt,.tsv,.xlsx,text/csv,text/plain"
        className="sr-only"
        tabIndex={-1}
        aria-label="Price list file"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) setFile(f);
        }}
      />
      {file && <PriceFile file={file} onClose={() => setFile(null)} />}
    </>
  );
}
