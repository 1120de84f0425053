import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { problemOf } from "../../api/client";
import { type RecordsWhat, useRecords } from "../../api/queries/journal";
import { TextField } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { Select } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { Recalls } from "../recalls/Recalls";
import { DayStrip } from "./DayStrip";

const WHATS: [RecordsWhat | "", string][] = [
  ["", "Everything"],
  ["batches", "Batches"],
  ["readings", "Readings"],
  ["decisions", "Decisions"],
  ["prints", "Prints"],
  ["jars", "Jars"],
  ["lots", "Lots"],
  ["recalls", "Recalls"],
  ["formulas", "Formulas"],
  ["pantry", "Pantry"],
  ["shop", "Shop and people"],
];

/** What was written down: found by code, by day, by kind and by person; each leads to its story. unknown is a code that nothing is called. */
export default function Records({ unknown = "" }: { unknown?: string }) {
  return (
    <div className="px-6 pt-4.5 pb-6 max-tablet:px-3">
      <header className="mb-3 flex items-end gap-6 max-tablet:flex-wrap">
        <h1 tabIndex={-1} className="font-title text-display leading-tight font-semibold">
          Records
        </h1>
        <Follow unknown={unknown} />
      </header>
      <div className="grid grid-cols-[minmax(0,1fr)_316px] items-start gap-5 max-tablet:grid-cols-1">
        <ByDay />
        <Recalls />
      </div>
    </div>
  );
}

/** From a code to its whole way. */
function Follow({ unknown }: { unknown: string }) {
  const [code, setCode] = useState(unknown);
  const go = useNavigate();
  return (
    <form
      className="ml-auto flex items-start gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (code.trim()) go(`/trace?code=${encodeURIComponent(code.trim())}`);
      }}
    >
      <TextField
        className="w-85 max-tablet:w-50"
        label="Follow a lot, or a jar, by its code"
        value={code}
        placeholder="26-317-A, or a supplier’s own words"
        onChange={(e) => setCode(e.target.value)}
        error={unknown && `No lot and no batch is called “${unknown}”. A supplier’s words are matched whole.`}
      />
      <button type="submit" className="btn mt-5" disabled={!code.trim()}>
        Follow it
      </button>
    </form>
  );
}

function ByDay() {
  const [query, setQuery] = useSearchParams();
  const { day, clock } = useFormats();
  const [at, what, by] = [query.get("day") ?? "", query.get("what") ?? "", query.get("by") ?? ""];
  const list = useRecords({
    ...(at ? { day: at } : {}),
    ...(what ? { what: what as RecordsWhat } : {}),
    ...(by ? { by } : {}),
  });
  const put = (name: string, value: string) =>
    setQuery(
      (q) => {
        if (value) q.set(name, value);
        else q.delete(name);
        q.delete("code");
        return q;
      },
      { replace: true },
    );
  if (list.isPending) return <Loading what="the records" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const first = list.data.pages[0];
  const rows = list.data.pages.flatMap((p) => p.rows);
  const count = first.days.find((d) => d.day === first.day)?.count ?? 0;
  return (
    <section className="sheet" aria-labelledby="day">
      <DayStrip days={first.days} day={first.day} today={first.today} onPick={(d) => put("day", d === first.today ? "" : d)} />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 border-y border-rule px-4 py-2.5">
        <h2 id="day" className="phase mr-auto text-lead">
          {day(first.day, true)}
          <span className="ml-2 font-text text-note not-italic">
            {count === 0 ? "nothing" : count === 1 ? "one entry" : `${count} entries`}
          </span>
        </h2>
        <Select aria-label="Kind of record" className="field w-42.5!" value={what} onValue={(v) => put("what", v)} options={WHATS} />
        <Select
          aria-label="Who wrote it"
          className="field w-37.5!"
          value={by}
          onValue={(v) => put("by", v)}
          options={[["", "Everybody"], ...first.people.map((p) => [p, p] as const)]}
        />
      </div>
      {rows.length === 0 && (
        <p className="px-4 py-6 text-body text-ink-2">
          Nothing of this was written down on the day
          {first.days.length > 0 ? ". The days that have any are drawn above." : ", nor in the weeks around it."}
        </p>
      )}
      <ol>
        {rows.map((r) => (
          <li
            key={r.seq}
            className="grid grid-cols-[52px_58px_minmax(0,1fr)_172px] items-baseline gap-x-3 border-b border-rule-soft px-4 py-1.5 text-body last:border-b-0 max-tablet:grid-cols-[52px_minmax(0,1fr)]"
          >
            <span className="text-note text-ink-3 tabular-nums">{clock(r.at)}</span>
            <b className="truncate text-body" title={r.by}>
              {r.by}
            </b>
            <span className="min-w-0 [overflow-wrap:anywhere] max-tablet:col-span-2">
              {r.said}
              {r.details.length > 0 && <span className="block text-note text-ink-2">{r.details.join("; ")}</span>}
            </span>
            <span className="min-w-0 text-right text-note max-tablet:col-start-2 max-tablet:text-left">
              {r.link && (
                <Link className="block truncate font-semibold text-cobalt hover:underline" title={r.name || r.of} to={r.link}>
                  {r.of || "look"}
                </Link>
              )}
              {r.name && <span className="block truncate text-note text-ink-2">{r.name}</span>}
            </span>
          </li>
        ))}
      </ol>
      {list.hasNextPage && (
        <button type="button" className="btn-quiet m-2" disabled={list.isFetchingNextPage} onClick={() => list.fetchNextPage()}>
          Show what came before
        </button>
      )}
    </section>
  );
}
