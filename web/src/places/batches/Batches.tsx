import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useBatches } from "../../api/queries/batches";
import { useFormulas } from "../../api/queries/formulas";
import { Head, Modal } from "../../parts/form";
import { Failed, Loading, Segmented, State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { fixed } from "../../tongue/quantity";
import { dateWord } from "../../tongue/words";

type Row = Schemas["BatchRow"];

/** pH of one batch against its own target and limit: a solid mark, because it was measured. */
function ValueMark({ row }: { row: Row }) {
  if (row.decision_ph == null) return <span className="whitespace-nowrap text-ink-3">not measured</span>;
  const x = (p: number) => 4 + ((Math.min(5, Math.max(3, p)) - 3) / 2) * 92;
  return (
    <span className="inline-flex items-center gap-2">
      <svg width="100" height="18" aria-hidden="true" className="shrink-0 max-tablet:hidden">
        <path d="M4 12h92" stroke="var(--color-rule-strong)" />
        <path d={`M${x(row.ph_target)} 4v12`} stroke="var(--color-mustard)" strokeWidth="1.500" strokeDasharray="3 2" />
        <path d={`M${x(row.ph_limit)} 2v14`} stroke="var(--color-beet)" strokeWidth="1.500" />
        <path d={`M${x(row.decision_ph)} 6l5 5-5 5-5-5z`} fill="var(--color-cobalt)" />
      </svg>
      <b className={row.decision_ph > row.ph_limit ? "text-beet" : ""}>{fixed(row.decision_ph, 2)}</b>
    </span>
  );
}

export default function Batches() {
  const { day, num } = useFormats();
  const [show, setShow] = useState<"all" | "hold" | "released" | "called_back" | "rejected">("all");
  const list = useBatches(show === "all" ? undefined : show);
  const [choosing, setChoosing] = useState(false);
  if (list.isPending) return <Loading what="the batches" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const rows = list.data.pages.flatMap((p) => p.batches);
  return (
    <div className="px-6 pt-4 pb-6">
      <Head title="Batches" sub={`${num(list.data.pages[0].all)} in the book`}>
        <Segmented
          label="Show"
          value={show}
          onChange={setShow}
          options={
            [
              ["all", "all"],
              ["hold", "on hold"],
              ["released", "released"],
              ["called_back", "called back"],
              ["rejected", "rejected"],
            ] as const
          }
        />
        <Link to="/devices" className="btn-quiet ml-2 inline-flex items-center max-tablet:hidden">
          Devices
        </Link>
        <Link to="/jars" className="btn-quiet ml-2 inline-flex items-center">
          Where the jars are
        </Link>
        <button type="button" className="btn" onClick={() => setChoosing(true)}>
          Make a batch
        </button>
      </Head>
      {rows.length === 0 ? (
        <div className="sheet mt-4 max-w-xl p-6">
          <p className="font-title text-title">{show === "all" ? "No batch yet." : "None in this state."}</p>
          {show === "all" && (
            <p className="mt-2 text-ink-2">Lock a formula, then make a batch of it: say how many jars, and the weigh sheet is ready.</p>
          )}
        </div>
      ) : (
        <section className="sheet mt-3 overflow-x-auto">
          <table className="ledger w-full tablet:min-w-225">
            <thead>
              <tr>
                <th className="pl-4">Lot</th>
                <th>Product</th>
                <th>Made</th>
                <th className="num">Jars</th>
                <th className="pl-6">State</th>
                <th className="pr-4">Decision pH</th>
                <th className="pr-4">Last day</th>
                <th className="pr-4 max-tablet:hidden">Waits for</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((b) => (
                <tr key={b.id} className="hover:bg-cobalt-tint">
                  <td className="whitespace-nowrap pr-3 pl-4">
                    <Link to={`/batches/${b.id}`} className="font-semibold text-cobalt underline-offset-2 hover:underline">
                      {b.code}
                    </Link>
                  </td>
                  <td className="pr-4">
                    <span className="line-clamp-2" title={b.formula_name}>
                      {b.formula_name}
                    </span>
                    <span className="block text-note leading-tight text-ink-3">version {b.version}</span>
                    <span className="line-clamp-2 text-note text-ink-2 tablet:hidden">{b.waits}</span>
                  </td>
                  <td className="whitespace-nowrap pr-2">{day(b.made_on)}</td>
                  <td className="num">{num(b.jars)}</td>
                  <td className="pr-3 pl-6">
                    <State of={b.state} />
                  </td>
                  <td className="pr-5">
                    <ValueMark row={b} />
                  </td>
                  <td className="whitespace-nowrap pr-4">
                    {b.state === "released" && b.last_day ? (
                      <>
                        {day(b.last_day)} <span className="text-note text-ink-3 max-tablet:hidden">{dateWord(b.date_kind)}</span>
                      </>
                    ) : (
                      "—"
                    )}
                  </td>
                  <td className="max-w-72 truncate pr-4 text-note text-ink-2 max-tablet:hidden" title={b.waits}>
                    {b.waits}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {list.hasNextPage && (
            <p className="border-t border-rule-soft p-3 text-center">
              <button type="button" className="btn-quiet" disabled={list.isFetchingNextPage} onClick={() => list.fetchNextPage()}>
                {list.isFetchingNextPage ? "Reading older batches …" : "Show older batches"}
              </button>
            </p>
          )}
        </section>
      )}
      <ChooseFormula open={choosing} onClose={() => setChoosing(false)} />
    </div>
  );
}

function ChooseFormula({ open, onClose }: { open: boolean; onClose: () => void }) {
  const formulas = useFormulas({ enabled: open });
  const navigate = useNavigate();
  const ready = formulas.data?.filter((f) => f.locked > 0 && !f.retired) ?? [];
  return (
    <Modal open={open} onClose={onClose} title="A batch of which formula?" width={440}>
      {ready.length === 0 && formulas.data && <p className="text-ink-2">No formula has a locked version yet. Lock one first.</p>}
      {ready.map((f) => (
        <button
          key={f.id}
          type="button"
          onClick={() => navigate(`/plan/${f.id}/${f.locked}`)}
          className="flex min-h-10 w-full items-center justify-between rounded-sm px-2 text-left hover:bg-cobalt-tint"
        >
          <span className="font-title text-lead">{f.name}</span>
          <span className="text-note text-ink-3">version {f.locked}</span>
        </button>
      ))}
    </Modal>
  );
}
