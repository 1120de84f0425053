import { Link } from "react-router";
import { problemOf } from "../../api/client";
import { useDates } from "../../api/queries/batches";
import { useFormulas } from "../../api/queries/formulas";
import { useEvidence, useRules } from "../../api/queries/keeping";
import { Head } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";
import { dateWord } from "../../tongue/words";
import { KINDS } from "./kinds";

/** The dates that are out, and the rules they rest on. */
export default function Keeping() {
  const { day, num, shop } = useFormats();
  const rules = useRules();
  const dates = useDates();
  const formulas = useFormulas();
  const evidence = useEvidence();
  if (rules.isPending || dates.isPending || evidence.isPending) return <Loading what="the rules" />;
  const failed = rules.error ?? dates.error ?? evidence.error;
  if (failed || !rules.data || !dates.data || !evidence.data) return <Failed message={problemOf(failed).title} />;
  const now = today();
  const { in_date: inDate, past } = dates.data;
  const name = (id: string) => formulas.data?.find((f) => f.id === id)?.name ?? id;
  return (
    <div className="px-6 pt-4 pb-6">
      <Head title="Keeping" sub="dates that are out, and the rules behind them">
        <Link to="/shop" className="btn-quiet inline-flex items-center">
          Tighten a rule
        </Link>
      </Head>
      <div className="mt-3 grid grid-cols-[minmax(0,1fr)_430px] items-start gap-6 max-desk:grid-cols-1">
        <section className="sheet" aria-label="Rules">
          <ol>
            {rules.data.map((r) => (
              <li key={r.id} className="grid grid-cols-[44px_minmax(0,1fr)_70px] border-b border-rule-soft py-2.5 pr-4">
                <span className="text-center font-title text-title text-ink-3">{r.id}</span>
                <span>
                  <b>{r.title}</b>
                  {r.laws.length < shop.laws.length && (
                    <span className="ml-2 rounded-sm border border-rule-strong px-1 text-note">{r.laws.join(", ")}</span>
                  )}
                  <span className="block text-note text-ink-2">{r.text}</span>
                  <span className="block text-note text-ink-3">{r.source}</span>
                </span>
                <span className="text-right">
                  {r.params.days !== undefined && (
                    <>
                      <b className="text-title">{num(r.params.days)}</b> <span className="unit block">days after</span>
                    </>
                  )}
                </span>
              </li>
            ))}
          </ol>
        </section>
        <div className="grid gap-5">
          <section className="sheet" aria-label="Dates">
            <h2 className="phase px-4 pt-3 pb-1 text-lead">Dates that are out</h2>
            <table className="ledger w-full">
              <tbody>
                {[...inDate, ...past].map((b) => (
                  <tr key={b.id} className={`hover:bg-cobalt-tint ${b.last_day < now ? "text-ink-3" : ""}`}>
                    <td className="pl-4">
                      <Link to={`/batches/${b.id}`} className="font-semibold text-cobalt">
                        {b.code}
                      </Link>
                    </td>
                    <td className="max-w-40 truncate">{b.formula_name}</td>
                    <td className="pr-4 text-right whitespace-nowrap">
                      <span className="text-note text-ink-2">{b.last_day < now ? "past" : dateWord(b.date_kind)}</span> {day(b.last_day)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {inDate.length + past.length === 0 && <p className="px-4 pb-4 text-ink-2">No batch is released yet.</p>}
          </section>
          <section className="sheet p-4" aria-label="Documents">
            <h2 className="phase mb-2 text-lead">Documents in force</h2>
            {evidence.data.filter((e) => !e.withdrawn).length === 0 && (
              <p className="text-note text-ink-2">None. Attach one on a formula, under Keeping and label words.</p>
            )}
            <ul className="grid gap-2 text-note">
              {evidence.data
                .filter((e) => !e.withdrawn)
                .map((e) => (
                  <li key={e.id}>
                    <Link className="font-semibold text-cobalt" to={`/formulas/${e.formula}`}>
                      {name(e.formula)}
                    </Link>
                    : {KINDS.find(([k]) => k === e.kind)?.[1]},{" "}
                    <a className="underline" href={`/api/evidence/${e.id}`}>
                      {e.title}
                    </a>
                    {e.days != null && `, ${e.days} days`}
                  </li>
                ))}
            </ul>
          </section>
        </div>
      </div>
    </div>
  );
}
