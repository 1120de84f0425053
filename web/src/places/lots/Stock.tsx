import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useLots, useLotsOf, useStock } from "../../api/queries/lots";
import { Head } from "../../parts/form";
import { Caution, Failed, Loading, Segmented } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { daysBetween, lookOf, MARKS, placeOf, placeOfDay } from "./shelf";

type Lot = Schemas["LotStanding"];
type Sum = Schemas["StockSum"];

const LOOKS = {
  usable: "bg-cobalt",
  soon: "bg-mustard",
  waits: "hatch border border-cobalt",
  barred: "border-2 border-beet bg-beet-tint",
  past: "bg-beet",
  frozen: "border-2 border-cobalt bg-water",
} as const;

const SHOWS = [
  ["there", "all"],
  ["ends", "end this week"],
  ["past", "past their end"],
  ["waiting", "wait"],
  ["hold", "may not be used"],
] as const;
type Show = (typeof SHOWS)[number][0];

/** What is there: one row an ingredient, its lots on a shelf of days, what ends first at the top. */
export default function Stock() {
  const { num, money, day, shop } = useFormats();
  const [params, setParams] = useSearchParams();
  const show = (params.get("show") ?? "there") as Show;
  const [find, setFind] = useState("");
  const stock = useStock();
  const lots = useLots(show === "past" ? "ends" : show, find.trim());
  if (stock.isPending || lots.isPending) return <Loading what="the stock" />;
  if (stock.isError) return <Failed message={problemOf(stock.error).title} again={() => stock.refetch()} />;
  if (lots.isError) return <Failed message={problemOf(lots.error).title} again={() => lots.refetch()} />;
  const today = stock.data.today;
  const among = lots.data.lots.filter((x) =>
    show === "past" ? !!x.ends && x.ends < today : show !== "ends" || !x.ends || x.ends >= today,
  );
  const rows = stock.data.rows
    .map((sum) => ({
      sum,
      lots: among.filter((x) => (sum.formula ? x.formula === sum.formula : !x.formula && x.ingredient === sum.ingredient)),
    }))
    .filter((r) => (show === "there" && !find.trim()) || r.lots.length > 0);
  const of = params.get("of");
  const chosen = rows.find((r) => r.sum.ingredient === of || r.sum.formula === of) ?? rows[0];
  const choose = (sum: Sum) =>
    setParams(
      (p) => {
        p.set("of", sum.ingredient || sum.formula);
        return p;
      },
      { replace: true },
    );
  const lost = stock.data.throw.reduce((s, x) => s + (x.cost ?? 0), 0);
  const worth = stock.data.rows.reduce((s, r) => s + (r.worth ?? 0), 0);
  return (
    <div className="flex h-full min-w-205 flex-col px-6 pt-4">
      <Head
        title="Stock"
        sub={`${stock.data.rows.length === 1 ? "one kind" : `${stock.data.rows.length} kinds`} of goods, worth ${money(worth, 0)} ${shop.currency}`}
      >
        <Link to="/pantry" className="btn-quiet inline-flex items-center">
          Ingredients
        </Link>
        <Link to="/stock/receive" className="btn inline-flex items-center">
          Take a delivery in
        </Link>
      </Head>
      {(stock.data.short.length > 0 || stock.data.throw.length > 0) && (
        <div className="mt-2 grid grid-cols-2 gap-x-6 gap-y-1 max-desk:grid-cols-1">
          {stock.data.short.map((x) => (
            <Caution key={x.name} level="needs_you" title={`${x.name} is short:`}>
              {x.for.map((b) => b.code).join(", ")} {x.for.length === 1 ? "needs" : "need"} {num(x.need_g)} g, {num(x.there_g)} g may be
              used.
            </Caution>
          ))}
          {stock.data.throw.length > 0 && (
            <Caution level="needs_you" title="Throw away what is past its end:">
              {stock.data.throw.length === 1 ? "one lot" : `${stock.data.throw.length} lots`}, {money(lost)} {shop.currency}.{" "}
              <Link className="font-semibold text-cobalt underline" to="/stock?show=past">
                Which
              </Link>
            </Caution>
          )}
        </div>
      )}
      <div className="mt-3 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_376px] gap-5 max-desk:grid-cols-[minmax(0,1fr)_290px] pb-4">
        <section className="sheet flex min-h-0 flex-col" aria-label="The shelf">
          <div className="flex flex-wrap items-center gap-x-3 gap-y-2 border-b border-rule px-4 py-2.5">
            <input
              type="search"
              aria-label="Search the stock"
              placeholder="Name, code, supplier"
              className="field w-50! max-desk:w-full!"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
            <span className="ml-auto whitespace-nowrap">
              <Segmented
                label="Which lots"
                value={show}
                onChange={(v) => setParams(v === "there" ? {} : { show: v }, { replace: true })}
                options={SHOWS}
              />
            </span>
          </div>
          <ShelfHead />
          <ul className="min-h-0 flex-1 overflow-y-auto">
            {rows.map(({ sum, lots: own }) => (
              <li key={sum.ingredient || sum.formula}>
                <button
                  type="button"
                  onClick={() => choose(sum)}
                  aria-current={chosen?.sum === sum ? "true" : undefined}
                  className={`grid w-full grid-cols-[minmax(0,1fr)_92px_minmax(0,1.25fr)] items-center gap-3 border-b border-l-4 border-b-rule-soft py-2 pr-4 pl-3 text-left hover:bg-cobalt-tint ${chosen?.sum === sum ? "border-l-cobalt bg-cobalt-tint" : "border-l-transparent"}`}
                >
                  <span className="min-w-0">
                    <span className="block truncate text-body font-medium">{sum.name}</span>
                    <span className="block truncate text-note text-ink-2">
                      {sum.lots === 1 ? "one lot" : `${sum.lots} lots`}
                      {sum.held > 0 && `, ${sum.held} not usable`}
                      {sum.ends && `, first ends ${day(sum.ends)}`}
                    </span>
                  </span>
                  <Grams value={sum.usable_g} />
                  <Shelf lots={own} today={today} />
                </button>
              </li>
            ))}
            {rows.length === 0 && (
              <li className="p-5 text-ink-2">
                {stock.data.rows.length === 0 ? (
                  <>
                    Nothing is kept in lots yet.{" "}
                    <Link to="/stock/receive" className="font-semibold text-cobalt">
                      Take the next delivery in
                    </Link>
                    : each row of its note becomes a lot with a sticker of its own.
                  </>
                ) : (
                  "None of these."
                )}
              </li>
            )}
          </ul>
          {lots.data.all > lots.data.lots.length && (
            <p className="border-t border-rule-soft px-4 py-2 text-note text-ink-2">
              The first {lots.data.lots.length} of {num(lots.data.all)} lots are drawn; search for the others.
            </p>
          )}
        </section>
        <aside className="min-h-0 overflow-y-auto" aria-label="Lots">
          {chosen && <Lots sum={chosen.sum} today={today} />}
        </aside>
      </div>
    </div>
  );
}

function Grams({ value }: { value: number }) {
  const { num } = useFormats();
  return (
    <span className={`text-right text-lead font-semibold whitespace-nowrap ${value < 0 ? "text-beet" : ""}`}>
      {Math.abs(value) >= 10_000 ? num(value / 1000, 1) : num(value)}
      <span className="unit">{Math.abs(value) >= 10_000 ? "kg" : "g"}</span>
    </span>
  );
}

/** The days over the shelf. */
function ShelfHead() {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_92px_minmax(0,1.25fr)] gap-3 border-b border-rule py-1.5 pr-4 pl-4 text-note text-ink-3">
      <span>what it is</span>
      <span className="text-right">may be used</span>
      <span className="relative h-4">
        {MARKS.map(([days, word]) => (
          <span key={word} className="absolute -translate-x-1/2 whitespace-nowrap" style={{ left: `${placeOfDay(days) * 100}%` }}>
            {word}
          </span>
        ))}
      </span>
    </div>
  );
}

/** One ingredient's lots where they end: as wide as there is of each. */
function Shelf({ lots, today }: { lots: Lot[]; today: string }) {
  const { day, num } = useFormats();
  const all = lots.reduce((s, x) => s + Math.max(0, x.on_hand_g), 0) || 1;
  return (
    <span className="relative block h-6.5 border-b-2 border-rule-strong">
      {MARKS.map(([days]) => (
        <span key={days} aria-hidden className="absolute top-0 bottom-0 w-px bg-rule-soft" style={{ left: `${placeOfDay(days) * 100}%` }} />
      ))}
      {lots.map((x) => {
        const width = Math.max(7, (34 * Math.max(0, x.on_hand_g)) / all);
        const look = lookOf(x, today);
        return (
          <span
            key={x.id}
            title={`${x.code}: ${num(x.on_hand_g)} g, ${x.ends ? `ends ${day(x.ends, true)}` : "no end"}${x.bar ? `; ${x.bar}` : ""}`}
            className={`absolute bottom-0 h-5 rounded-t-sm ${LOOKS[look]}`}
            style={{ left: `calc(${placeOf(today, x.ends) * 100}% - ${x.ends ? width / 2 : width}px)`, width }}
          />
        );
      })}
    </span>
  );
}

/** All lots of one ingredient or component, with what is left of each. */
function Lots({ sum, today }: { sum: Sum; today: string }) {
  const { money, shop } = useFormats();
  const of = sum.ingredient || sum.formula;
  const list = useLotsOf(of);
  return (
    <>
      <h2 className="font-title text-title leading-tight font-semibold [overflow-wrap:anywhere]">{sum.name}</h2>
      <p className="mb-2 text-note text-ink-2">
        {sum.worth != null ? `worth ${money(sum.worth)} ${shop.currency}` : "worth unknown: a lot without a cost is among them"}
        {sum.ingredient && (
          <>
            {", "}
            <Link className="font-semibold text-cobalt" to={`/pantry/${sum.ingredient}`}>
              its page
            </Link>
          </>
        )}
      </p>
      <ul className="grid gap-2">
        {list.data?.lots.map((x) => (
          <li key={x.id}>
            <LotTag x={x} today={today} />
          </li>
        ))}
      </ul>
    </>
  );
}

/** A lot as the paper tag that is tied to it. */
function LotTag({ x, today }: { x: Lot; today: string }) {
  const { day, num } = useFormats();
  const look = lookOf(x, today);
  const all = Math.max(x.received_g + Math.max(0, x.corrected_g), 1);
  const days = x.ends ? daysBetween(today, x.ends) : null;
  return (
    <Link
      to={x.kind === "batch" ? `/batches/${x.batch}` : `/lots/${x.id}`}
      className={`block border border-l-5 bg-paper px-3 py-2 shadow-lift hover:border-cobalt ${look === "barred" || look === "past" ? "border-beet" : look === "soon" || look === "waits" ? "border-mustard" : "border-paper-edge border-l-cobalt"}`}
    >
      <span className="flex items-baseline justify-between gap-3">
        <b className="text-lead">{x.code}</b>
        <span className={`text-lead font-semibold ${x.on_hand_g < 0 ? "text-beet" : ""}`}>
          {num(x.on_hand_g)}
          <span className="unit">g</span>
        </span>
      </span>
      <span className="my-1 block h-1.5 border border-rule-strong bg-white">
        <span
          className={`block h-full ${look === "waits" ? "hatch" : "bg-cobalt"}`}
          style={{ width: `${Math.min(100, Math.max(0, (100 * x.on_hand_g) / all))}%` }}
        />
      </span>
      <span className="flex items-baseline justify-between gap-3 text-note text-ink-2">
        <span className="min-w-0 truncate">
          {x.kind === "part"
            ? x.frozen
              ? "frozen part"
              : "thawed part"
            : x.kind === "batch"
              ? `our batch, version ${x.version}`
              : [x.supplier, x.text].filter(Boolean).join(", ")}
        </span>
        <span className={`whitespace-nowrap ${days !== null && days <= 3 ? "font-semibold text-mustard-ink" : ""}`}>
          {days === null ? "no end" : days < 0 ? `ended ${day(x.ends ?? "")}` : `ends ${day(x.ends ?? "")}`}
        </span>
      </span>
      {x.bar && <span className="mt-0.5 block text-note font-semibold text-beet">{x.bar}</span>}
    </Link>
  );
}
