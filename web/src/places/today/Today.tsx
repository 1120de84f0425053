import { Link } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useToday } from "../../api/queries/today";
import { Head } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { today as shopDay } from "../../tongue/clock";
import { dateWord, say } from "../../tongue/words";
import { LeadOn } from "./Lead";

type Task = Schemas["Task"];

const EDGE: Record<string, string> = { danger: "border-beet", needs_you: "border-mustard", soon: "border-wash" };
const WORD: Record<string, string> = { danger: "stop", needs_you: "needs you", soon: "soon" };

/** Jars are out that must come back: nothing on the screen is louder. */
function CallBackRow({ t }: { t: Task }) {
  return (
    <li>
      <Link
        to={t.link}
        className="grid grid-cols-[44px_minmax(0,1fr)_auto] items-center gap-4 bg-beet py-4 pr-4 pl-4 text-white outline-offset--4 focus-visible:outline-white"
      >
        <svg width="40" height="40" viewBox="0 0 40 40" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="3">
          <path d="M13 8h14v4c4 2 5 5 5 9 0 7-4 12-12 12S8 28 8 21c0-4 1-7 5-9z" />
          <path d="M26 21H15m5-5.500l-5.500 5.500 5.500 5.500" strokeLinecap="round" strokeLinejoin="round" />
        </svg>
        <span className="min-w-0">
          <span className="block font-title text-title leading-tight font-semibold [overflow-wrap:anywhere]">
            <span className="sr-only">stop: </span>
            {t.title}
          </span>
          <span className="mt-1 block text-body">{t.text}</span>
        </span>
        <span className="text-body font-semibold whitespace-nowrap">{t.when}</span>
      </Link>
    </li>
  );
}

function TaskRow({ t }: { t: Task }) {
  if (t.kind === "call_back") return <CallBackRow t={t} />;
  return (
    <li>
      <Link
        to={t.link}
        className={`grid grid-cols-[minmax(0,1fr)_auto] items-center gap-4 border-b border-l-5 border-b-rule-soft ${EDGE[t.level]} py-3 pr-4 pl-4 hover:bg-cobalt-tint`}
      >
        <span className="min-w-0">
          <span className="block text-lead font-semibold [overflow-wrap:anywhere]">
            <span className="sr-only">{WORD[t.level]}: </span>
            {t.title}
          </span>
          <span className="block text-note text-ink-2">{t.text}</span>
        </span>
        <span
          className={`text-note whitespace-nowrap ${t.level === "danger" ? "font-semibold text-beet" : t.level === "needs_you" ? "font-semibold text-mustard-ink" : "text-ink-2"}`}
        >
          {t.when}
        </span>
      </Link>
    </li>
  );
}

function daysLeft(last: string): number {
  return Math.round((Date.parse(`${last}T00:00:00Z`) - Date.parse(`${shopDay()}T00:00:00Z`)) / 86_400_000);
}

export default function Today() {
  const { shop, day, num } = useFormats();
  const today = useToday();
  if (today.isPending) return <Loading what="the day" />;
  if (today.isError) return <Failed message={problemOf(today.error).title} again={() => today.refetch()} />;
  const date = new Intl.DateTimeFormat(shop.locale, {
    weekday: "long",
    day: "numeric",
    month: "long",
    timeZone: shop.time_zone,
  }).format(new Date());
  const { tasks, batches, lead } = today.data;
  const longest = Math.max(14, ...batches.map((b) => daysLeft(b.last_day)));
  return (
    <div className="px-6 pt-4 pb-6 max-tablet:px-3">
      <Head title={date} sub={lead && tasks.length === 0 ? "on the way to the first label" : say("things", { count: tasks.length })}>
        {!lead && (
          <Link to="/batches" className="btn inline-flex items-center">
            To the batches
          </Link>
        )}
      </Head>
      <div
        className={
          lead && batches.length === 0 && tasks.length === 0
            ? "mt-4"
            : "mt-4 grid grid-cols-[minmax(0,1fr)_400px] items-start gap-6 max-tablet:grid-cols-[minmax(0,1fr)]"
        }
      >
        <div className="min-w-0">
          {lead && <LeadOn lead={lead} />}
          {(!lead || tasks.length > 0) && (
            <section className="sheet" aria-label="What needs a hand">
              {tasks.length === 0 ? (
                <div className="p-6">
                  <p className="font-title text-title">All quiet.</p>
                  <p className="mt-2 text-ink-2">
                    No batch waits, no date is near, every price is fresh. Begin something:{" "}
                    <Link className="font-semibold text-cobalt" to="/formulas">
                      open a formula
                    </Link>
                    .
                  </p>
                </div>
              ) : (
                <ul>
                  {tasks.map((t) => (
                    <TaskRow key={`${t.kind}${t.title}`} t={t} />
                  ))}
                </ul>
              )}
            </section>
          )}
        </div>
        {!(lead && batches.length === 0 && tasks.length === 0) && (
          <section aria-label="In date">
            <h2 className="mb-2 flex items-baseline justify-between font-title text-title font-semibold">
              In the cold room <small className="font-text text-note font-normal text-ink-2">released, days left</small>
            </h2>
            {batches.length === 0 && <p className="text-ink-2">No released batch is in date.</p>}
            <ul className="grid grid-cols-[minmax(0,1fr)] gap-2.5">
              {batches.map((b) => {
                const left = daysLeft(b.last_day);
                return (
                  <li key={b.id}>
                    <Link to={`/batches/${b.id}`} className="block rounded-sm hover:bg-cobalt-tint">
                      <span className="flex items-baseline justify-between gap-3">
                        <span className="flex min-w-0 items-baseline gap-1.5" title={b.formula_name}>
                          <b className="truncate">{b.formula_name}</b>
                          <span className="shrink-0 text-note text-ink-2">{b.code}</span>
                        </span>
                        <span className="text-note whitespace-nowrap text-ink-2">
                          {num(b.here)} of {say("jars", { count: b.jars })}, {dateWord(b.date_kind)} {day(b.last_day)}
                        </span>
                      </span>
                      <span className="mt-1 flex items-center gap-2">
                        <span className="h-2.25 flex-1 border border-rule-strong bg-white">
                          <span
                            className={`block h-full ${left <= 7 ? "bg-mustard" : "bg-cobalt"}`}
                            style={{ width: `${Math.max(2, (100 * left) / longest)}%` }}
                          />
                        </span>
                        <span className="w-13.5 text-right text-note font-semibold">
                          {left === 0 ? "last day" : say("days", { count: left })}
                        </span>
                      </span>
                      <span className="block text-note text-ink-3">released by {b.by}</span>
                    </Link>
                  </li>
                );
              })}
            </ul>
          </section>
        )}
      </div>
    </div>
  );
}
