import { Link } from "react-router";
import { problemOf } from "../../api/client";
import { useRecalls } from "../../api/queries/recalls";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";
import { say } from "../../tongue/words";
import { outcome } from "./fates";

/** Drills and real recalls: open ones first, and when the next drill is due. */
export function Recalls() {
  const { day } = useFormats();
  const list = useRecalls();
  if (list.isPending) return <Loading what="recalls" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const { rows, due, next } = list.data;
  return (
    <section className="sheet" aria-labelledby="recalls">
      <h2 id="recalls" className="phase border-b border-rule px-4 py-2.5 text-lead">
        Recalls and drills
      </h2>
      <p className={`px-4 py-2.5 text-body leading-normal ${due ? "border-l-4 border-mustard bg-mustard-tint" : "text-ink-2"}`}>
        {due ? (
          <>
            <b>The yearly drill is due.</b> Follow any lot above, and start a drill there: it shows how long it takes until everybody who
            has its jars is told.
          </>
        ) : next ? (
          `The next drill is due ${day(next, true)}.`
        ) : (
          "A drill is due once a jar has left the shop, and yearly from then on."
        )}
      </p>
      <ul>
        {rows.map((r) => (
          <li key={r.id} className="border-t border-rule-soft">
            <Link to={`/recalls/${r.id}`} className="block px-4 py-2.5 hover:bg-cobalt-tint">
              <span className="flex items-baseline gap-2">
                <b className="text-cobalt">{r.code}</b>
                <span
                  className={`text-note font-semibold ${r.closed_at ? "text-ink-2" : r.mock ? "text-mustard-ink" : "rounded-sm bg-beet px-1.5 text-white"}`}
                >
                  {r.mock ? "drill" : "recall"}
                  {r.closed_at ? "" : ", open"}
                </span>
                <span className="ml-auto text-note text-ink-3">{day(today(new Date(r.began)), true)}</span>
              </span>
              <span className="block truncate text-body" title={r.title}>
                {r.title}
              </span>
              <span className="block text-note leading-normal text-ink-2">
                {r.closed_at ? `${outcome(r)}.` : `${say("jars", { count: r.account.open })} still to look for.`}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
