import { Link, useSearchParams } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useJars } from "../../api/queries/batches";
import { Head } from "../../parts/form";
import { Failed, Loading, State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { dateWord, say } from "../../tongue/words";
import { JarKey, JarStrip } from "./JarStrip";
import { PartiesDialog } from "./Parties";
import { SendDialog } from "./SendDialog";

type Row = Schemas["JarsRow"];

/** Where every jar is that is still to be thought of: batches called back first, then what ends first. */
export default function Jars() {
  const [params, setParams] = useSearchParams();
  const list = useJars();
  if (list.isPending) return <Loading what="the jars" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const { rows, parties, today, more } = list.data;
  const back = rows.filter((r) => r.state === "called_back");
  const others = rows.filter((r) => r.state !== "called_back");
  const ready = rows.reduce((s, r) => s + r.ready, 0);
  const out = rows.reduce((s, r) => s + r.at.filter((x) => x.place === "with").reduce((n, x) => n + x.jars, 0), 0);
  const close = () => setParams({}, { replace: true });
  return (
    <div className="px-6 pt-4 pb-6 max-tablet:px-3">
      <Head title="Where the jars are" sub={`${ready} may leave, ${out} are out`}>
        <Link to="/batches" className="btn-quiet inline-flex items-center">
          Batches
        </Link>
        <button type="button" className="btn-quiet" onClick={() => setParams({ who: "1" }, { replace: true })}>
          Customers and markets
        </button>
        <button type="button" className="btn" disabled={ready === 0} onClick={() => setParams({ send: "1" }, { replace: true })}>
          Send jars
        </button>
      </Head>
      {back.map((r) => (
        <CalledBack key={r.id} r={r} parties={parties} />
      ))}
      {rows.length === 0 ? (
        <div className="sheet mt-4 max-w-xl p-6">
          <p className="font-title text-title">No jar is here, and none is called back.</p>
          <p className="mt-2 text-ink-2">Fill a batch, and its jars stand on the bench here until they are put away and sent.</p>
        </div>
      ) : (
        <section className="sheet mt-3" aria-label="Jars by batch">
          <div className="border-b border-rule px-4 py-2.5">
            <JarKey at={others.flatMap((r) => r.at)} />
          </div>
          <ul>
            {others.map((r) => (
              <JarRow key={r.id} r={r} today={today} />
            ))}
          </ul>
          {more && <p className="px-4 py-3 text-note text-ink-2">More batches have jars here; the first to end are shown.</p>}
        </section>
      )}
      <SendDialog open={params.get("send") === "1"} rows={rows} parties={parties} onClose={close} />
      <PartiesDialog open={params.get("who") === "1"} parties={parties} onClose={close} />
    </div>
  );
}

function JarRow({ r, today }: { r: Row; today: string }) {
  const { day } = useFormats();
  const out = r.at.filter((x) => x.place === "with");
  const left = r.last_day ? Math.round((Date.parse(`${r.last_day}T00:00:00Z`) - Date.parse(`${today}T00:00:00Z`)) / 86_400_000) : null;
  return (
    <li className="grid grid-cols-[250px_minmax(0,1fr)_118px] items-center gap-5 border-b border-rule-soft px-4 py-2.5 max-tablet:grid-cols-1 max-tablet:gap-1">
      <span className="min-w-0">
        <Link to={`/batches/${r.id}/jars`} className="flex items-baseline gap-2">
          <b className="text-cobalt">{r.code}</b>
          <span className="min-w-0 truncate text-body font-medium" title={r.formula_name}>
            {r.formula_name}
          </span>
        </Link>
        <span className={`block text-note ${left !== null && left <= 3 ? "font-semibold text-mustard-ink" : "text-ink-2"}`}>
          {r.state === "released" && left !== null
            ? left < 0
              ? `ended ${day(r.last_day)}: withdraw them`
              : `${dateWord(r.date_kind)} ${day(r.last_day)}, ${left === 0 ? "last day" : say("days", { count: left })}`
            : ""}
          {r.state !== "released" && <State of={r.state} />}
        </span>
      </span>
      <span className="min-w-0">
        <JarStrip at={r.at} />
        {out.length > 0 && (
          <span className="mt-0.5 block truncate text-note text-ink-2">{out.map((x) => `${x.party_name} ${x.jars}`).join(", ")}</span>
        )}
      </span>
      <span className="text-right text-note max-tablet:text-left">
        {r.ready > 0 ? (
          <>
            <b className="text-title">{r.ready}</b> may leave
          </>
        ) : (
          <span className="text-note leading-tight text-ink-2">{r.why_not || "none is closed and here"}</span>
        )}
      </span>
    </li>
  );
}

/** A batch that is called back: who has its jars, and how they are reached. */
function CalledBack({ r, parties }: { r: Row; parties: Schemas["Party"][] }) {
  const out = r.at.filter((x) => x.place === "with");
  const n = out.reduce((s, x) => s + x.jars, 0);
  return (
    <section
      className="mt-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1.3fr)] gap-6 bg-beet px-5 py-4 text-white max-tablet:grid-cols-1"
      aria-label={`Called back: ${r.code}`}
    >
      <div>
        <Link to={`/batches/${r.id}/jars`} className="font-title text-title leading-tight font-semibold underline-offset-4 hover:underline">
          {r.code}, {r.formula_name}: called back
        </Link>
        <p className="mt-1 mb-2 text-body">{n === 0 ? "By the book nobody outside has jars of it." : `${n} of ${r.jars} jars are out.`}</p>
        <JarStrip at={r.at} />
      </div>
      <ul>
        {out.map((x) => {
          const who = parties.find((p) => p.id === x.party);
          return (
            <li
              key={x.party}
              className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_64px] items-baseline gap-3 border-b border-white/25 py-2"
            >
              <b className="text-lead [overflow-wrap:anywhere]">{x.party_name}</b>
              <span className="[overflow-wrap:anywhere]">
                {who?.contact || (who?.kind === "market" ? "sold at the stall: put a notice up" : "no contact is known")}
              </span>
              <span className="text-right text-lead font-semibold">{x.jars} jars</span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
