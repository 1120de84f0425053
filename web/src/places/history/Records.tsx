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
    <div className="px-6 pt-[18px] pb-6 max-[760px]:px-3">
      <header className="mb-3 flex items-end gap-6 max-[900px]:flex-wrap">
        <h1 tabIndex={-1} className="font-title text-[29px] leading-[1.2] font-semibold">
          Records
        </h1>
        <Follow unknown={unknown} />
      </header>
      <div className="grid grid-cols-[minmax(0,1fr)_316px] items-start gap-5 max-[1000px]:grid-cols-1">
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
        className="w-[340px] max-[760px]:w-[200px]"
        label="Follow a lot, or a jar, by its code"
        value={code}
        placeholder="26-317-A, or a supplier’s own words"
        onChange={(e) => setCode(e.target.value)}
        error={unknown && `No lot and no batch is called “${unknown}”. A supplier’s words are matched whole.`}
      />
      <button type="submit" className="btn mt-[20px]" disabled={!code.trim()}>
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
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 border-y border-rule px-4 py-[9px]">
        <h2 id="day" className="phase mr-auto text-[16px]">
          {day(first.day, true)}
          <span className="ml-2 font-text text-[12.5px] not-italic">
            {count === 0 ? "nothing" : count === 1 ? "one entry" : `${count} entries`}
          </span>
        </h2>
        <Select aria-label="Kind of record" className="field w-[170px]!" value={what} onValue={(v) => put("what", v)} options={WHATS} />
        <Select
          aria-label="Who wrote it"
          className="field w-[150px]!"
          value={by}
          onValue={(v) => put("by", v)}
          options={[["", "Everybody"], ...first.people.map((p) => [p, p] as const)]}
        />
      </div>
      {rows.length === 0 && (
        <p className="px-4 py-6 text-[14px] text-ink-2">
          Nothing of this was written down on the day
          {first.days.length > 0 ? ". The days that have any are drawn above." : ", nor in the weeks around it."}
        </p>
      )}
      <ol>
        {rows.map((r) => (
          <li
            key={r.seq}
            className="grid grid-cols-[52px_58px_minmax(0,1fr)_172px] items-baseline gap-x-3 border-b border-rule-soft px-4 py-[6px] text-[14px] last:border-b-0 max-[760px]:grid-cols-[52px_minmax(0,1fr)]"
          >
            <span className="text-[12.5px] text-ink-3 tabular-nums">{clock(r.at)}</span>
            <b className="truncate text-[13.5px]" title={r.by}>
              {r.by}
            </b>
            <span className="min-w-0 [overflow-wrap:anywhere] max-[760px]:col-span-2">
              {r.said}
              {r.details.length > 0 && <span className="block text-[12.5px] text-ink-2">{r.details.join("; ")}</span>}
            </span>
            <span className="min-w-0 text-right text-[13px] max-[760px]:col-start-2 max-[760px]:text-left">
              {r.link && (
                <Link className="block truncate font-semibold text-cobalt hover:underline" title={r.name || r.of} to={r.link}>
                  {r.of || "look"}
                </Link>
              )}
              {r.name && <span className="block truncate text-[12px] text-ink-2">{r.name}</span>}
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
