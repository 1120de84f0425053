import { useState } from "react";
import { Link, useParams } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useChange } from "../../api/queries/allergens";
import { Head } from "../../parts/form";
import { Failed, Loading, State } from "../../parts/marks";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { placeWord } from "../batches/jarPlaces";
import { StartRecall } from "../recalls/StartRecall";
import { type Change, changeWords } from "./changes";
import { DealDialog, type How } from "./DealDialog";
import { FromLot } from "./FromLot";

type ChangeBatch = Schemas["ChangeBatch"];

const DONE: Record<string, string> = {
  relabelled: "carry new labels",
  withdrawn: "withdrawn",
  gone: "gone; told",
  unaffected: "not affected",
};

/** One change: what it touches, and what became of each. It stays open until every batch and label is dealt with. */
export default function ChangePage() {
  const { id = "" } = useParams();
  const { shop, kept } = useFormats();
  const q = useChange(id);
  const me = useMe();
  const [looking, setLooking] = useState(false);
  if (q.isPending && /^\d+$/.test(id)) return <Loading what="the change" />;
  if (q.isError || !q.data) return <Failed message={q.error ? problemOf(q.error).title : "Nothing is kept under this address."} />;
  const c = q.data;
  const w = changeWords(c, shop.ticks);
  const openBatches = c.batches.filter((b) => !b.lacking.how).length;
  const openLabels = c.labels.filter((l) => !l.done).length;
  return (
    <div className="px-6 pt-4 pb-6 max-tablet:px-3">
      <Head title={w.title} state={c.open ? <State of="stop_using" word="to work off" /> : <State of="current" word="dealt with" />}>
        <Link to="/allergens" className="btn-quiet inline-flex items-center">
          All changes
        </Link>
        {c.batches.length > 0 && w.gained.length > 0 && me.may("maker") && (
          <button type="button" className="btn-line" onClick={() => setLooking(true)}>
            Look for its jars
          </button>
        )}
      </Head>
      <p className="mt-1 text-ink-2">
        {kept(c.at)}, {c.by}
        {c.reason && `: ${c.reason}`}
      </p>
      {looking && <StartRecall of={{ change: c.id }} what={w.title} onClose={() => setLooking(false)} />}
      {c.open && (
        <p className="mt-3 border-l-6 border-beet bg-beet-tint px-4 py-2 text-lead">
          <b className="text-beet">
            {[
              openBatches > 0 && `${openBatches === 1 ? "One batch is" : `${openBatches} batches are`} out with words that do not say so`,
              openLabels > 0 && `${openLabels === 1 ? "one label waits" : `${openLabels} labels wait`} to be drawn anew`,
            ]
              .filter(Boolean)
              .join(", and ")}
            .
          </b>{" "}
          Confirming a label closes no batch: each is relabelled, withdrawn, or gone and somebody was told.
        </p>
      )}
      <div className="mt-4 grid grid-cols-[minmax(0,1fr)_360px] items-start gap-6 max-desk:grid-cols-[minmax(0,1fr)]">
        <section aria-label="Batches called back">
          {c.lots.length > 1 && openBatches > 0 && <FromLot c={c} />}
          {c.batches.length === 0 && (
            <p className="sheet p-5 text-ink-2">
              {w.gained.length === 0
                ? "Nothing was gained: no jar lacks a word by it. Labels that say more than is there are drawn anew."
                : "No batch was out in date with words that lack it."}
            </p>
          )}
          <ul className="grid gap-4">
            {c.batches.map((b) => (
              <BatchCard key={b.batch.id} c={c} b={b} />
            ))}
          </ul>
        </section>
        <div className="grid gap-5">
          <section className="sheet" aria-label="Labels">
            <h2 className="phase px-4 pt-3 pb-1 text-lead">Labels</h2>
            {c.labels.length === 0 && <p className="px-4 pb-3 text-ink-2">None is drawn for these products.</p>}
            <ul>
              {c.labels.map((l) => (
                <li key={l.id} className="border-t border-rule-soft">
                  <Link to={`/labels/${l.id}`} className="flex items-center justify-between gap-3 px-4 py-2 hover:bg-cobalt-tint">
                    <span className="min-w-0 truncate">
                      <b>{l.name}</b>, {l.regime}
                    </span>
                    {l.done ? <State of="current" word="says it" /> : <State of="stop_using" />}
                  </Link>
                </li>
              ))}
            </ul>
          </section>
          <section className="sheet" aria-label="Products">
            <h2 className="phase px-4 pt-3 pb-1 text-lead">In these versions</h2>
            {c.products.length === 0 && <p className="px-4 pb-3 text-ink-2">It is in none.</p>}
            <ul className="pb-2">
              {c.products.map((p) => (
                <li key={`${p.formula}/${p.version}`} className="px-4 py-1">
                  <Link to={`/formulas/${p.formula}/${p.version}`} className="text-cobalt hover:underline">
                    {p.name}, version {p.version}
                  </Link>
                  {p.state === "draft" && <span className="text-ink-2">, draft</span>}
                </li>
              ))}
            </ul>
          </section>
        </div>
      </div>
    </div>
  );
}

function BatchCard({ c, b }: { c: Change; b: ChangeBatch }) {
  const { kept } = useFormats();
  const me = useMe();
  const [how, setHow] = useState<How | "">("");
  const done = b.lacking.how;
  const out = b.jars.filter((x) => x.place === "with");
  return (
    <li className={`sheet border-l-6 p-4 ${done ? "border-l-leaf" : "border-l-beet"}`}>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <Link to={`/batches/${b.batch.id}/jars`} className="font-title text-title font-semibold text-cobalt hover:underline">
          {b.batch.code}
        </Link>
        <span className="min-w-0 flex-1 text-lead">{b.batch.formula_name}</span>
        <State of={b.batch.state} />
      </div>
      <p className="mt-1 text-body text-ink-2">
        {b.batch.jars} jars, {b.printed} labels printed
        {b.used.length > 0 && `; took ${[...new Set(b.used)].join(", ")}`}
      </p>
      {b.jars.length > 0 && (
        <ul className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(250px,1fr))] gap-x-4">
          {b.jars.map((x) => (
            <li key={`${x.place}${x.party ?? 0}`} className="flex justify-between gap-3 border-b border-rule-soft py-1 text-body">
              <span className="min-w-0 truncate">{x.place === "with" ? <b>{x.party_name}</b> : placeWord(x.place)}</span>
              <b>{x.jars}</b>
            </li>
          ))}
        </ul>
      )}
      {done ? (
        <p className="mt-2 text-body">
          <b className="text-leaf">{DONE[done]}</b>, {b.lacking.by}, {kept(b.lacking.at ?? "")}: {b.lacking.reason}
          {b.lacking.told && ` Told: ${b.lacking.told}.`}
        </p>
      ) : me.may("owner") ? (
        <div className="mt-3 flex flex-wrap gap-2">
          <button type="button" className="btn-line" onClick={() => setHow("relabelled")}>
            They carry new labels
          </button>
          <button type="button" className="btn-line" onClick={() => setHow("withdrawn")}>
            Withdrawn
          </button>
          <button type="button" className="btn-beet" onClick={() => setHow("gone")}>
            {out.length > 0 ? "Gone: who was told?" : "Gone: say who was told"}
          </button>
        </div>
      ) : (
        <p className="mt-2 text-body font-semibold text-mustard-ink">An owner says what became of these jars.</p>
      )}
      {how && <DealDialog c={c} b={b} how={how} onClose={() => setHow("")} />}
    </li>
  );
}
