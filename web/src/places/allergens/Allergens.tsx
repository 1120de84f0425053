import { Link } from "react-router";
import { problemOf } from "../../api/client";
import { useChanges, useToLookAt } from "../../api/queries/allergens";
import { Head } from "../../parts/form";
import { Failed, Loading, State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { changeWords } from "./changes";
import { Vessels } from "./Vessels";

/** What nobody looked at, what was gained and lost, and what vessels carry from one product into the next. */
export default function Allergens() {
  const { shop, day } = useFormats();
  const open = useToLookAt();
  const changes = useChanges();
  if (open.isPending || changes.isPending) return <Loading what="what is in things" />;
  const failed = open.error ?? changes.error;
  if (failed || !open.data || !changes.data) return <Failed message={problemOf(failed).title} />;
  const left = changes.data.filter((c) => c.open).length;
  return (
    <div className="px-6 pt-4 pb-6 max-tablet:px-3">
      <Head
        title="Allergens"
        sub={`${open.data.length === 0 ? "everything in use was looked at" : `${open.data.length} to look at`}${left > 0 ? `, ${left} to work off` : ""}`}
      >
        <Link to="/pantry" className="btn-quiet inline-flex items-center">
          Pantry
        </Link>
      </Head>
      <div className="mt-4 grid grid-cols-[minmax(0,1fr)_420px] items-start gap-6 max-desk:grid-cols-[minmax(0,1fr)]">
        <div className="grid gap-6">
          <section aria-labelledby="gained">
            <h2 id="gained" className="phase mb-2 text-lead">
              Gained and lost
            </h2>
            {changes.data.length === 0 ? (
              <p className="sheet p-5 text-ink-2">
                Nothing yet. When an ingredient gains an allergen, every label, batch and jar that it touches stands here until each is
                dealt with.
              </p>
            ) : (
              <ul className="sheet">
                {changes.data.map((c) => {
                  const w = changeWords(c, shop.ticks);
                  return (
                    <li key={c.id} className="border-b border-rule-soft last:border-0">
                      <Link
                        to={`/allergens/${c.id}`}
                        className={`grid grid-cols-[minmax(0,1fr)_auto] items-center gap-4 border-l-6 px-4 py-3 hover:bg-cobalt-tint ${c.open ? "border-beet" : "border-rule"}`}
                      >
                        <span className="min-w-0">
                          <span className="block font-title text-title leading-tight font-semibold [overflow-wrap:anywhere]">
                            {w.title}
                          </span>
                          <span className="block text-note text-ink-2">
                            {day(c.at.slice(0, 10))}, {c.by}
                            {c.reason && `: ${c.reason}`}. {w.touches}
                          </span>
                        </span>
                        {c.open ? <State of="stop_using" word="to work off" /> : <State of="current" word="dealt with" />}
                      </Link>
                    </li>
                  );
                })}
              </ul>
            )}
          </section>
          <Vessels />
        </div>
        <section aria-labelledby="open" className="sheet">
          <h2 id="open" className="phase px-4 pt-3 pb-1 text-lead">
            To look at
          </h2>
          {open.data.length === 0 && <p className="px-4 pb-4 text-ink-2">Every ingredient of your formulas was looked at.</p>}
          <ul>
            {open.data.map((g) => (
              <li key={g.id} className="border-t border-rule-soft">
                <Link to={`/pantry/${g.id}?look=1`} className="block border-l-6 border-mustard px-4 py-2.5 hover:bg-cobalt-tint">
                  <b className="block text-lead">{g.name}</b>
                  <span className="block text-note text-ink-2">{g.why.join("; ")}</span>
                  <span className="block text-note text-ink-3">in {g.in.join(", ")}</span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      </div>
    </div>
  );
}
