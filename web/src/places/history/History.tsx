import { useState } from "react";
import { problemOf, type Schemas } from "../../api/client";
import { useHistory } from "../../api/queries/journal";
import { Modal } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { today } from "../../tongue/clock";

type Of = "ingredient" | "formula" | "batch" | "lot" | "label" | "preparation" | "recipe" | "recall" | "shop";
type Row = Schemas["HistoryRow"];

/** Opens what became of a thing: who did what, when, as sentences. */
export function HistoryButton({ of, id, title }: { of: Of; id?: string; title: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
        History
      </button>
      <Modal open={open} onClose={() => setOpen(false)} title={`History of ${title}`} width={760}>
        {open && <History of={of} id={id} />}
      </Modal>
    </>
  );
}

function History({ of, id }: { of: Of; id?: string }) {
  const { day } = useFormats();
  const list = useHistory(of, id);
  if (list.isPending) return <Loading what="the history" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const rows = list.data.pages.flatMap((p) => p.rows);
  if (rows.length === 0) return <p className="text-ink-2">Nothing was changed since it is kept who changes what.</p>;
  const days = new Map<string, Row[]>();
  for (const r of rows) {
    const d = today(new Date(r.at));
    days.set(d, [...(days.get(d) ?? []), r]);
  }
  return (
    <div>
      {[...days].map(([d, of]) => (
        <section key={d} className="mb-4">
          <h3 className="phase mb-1 border-b border-rule pb-1 text-body">{day(d, true)}</h3>
          <ol>
            {of.map((r) => (
              <Line key={r.seq} r={r} />
            ))}
          </ol>
        </section>
      ))}
      {list.hasNextPage && (
        <button type="button" className="btn-quiet" disabled={list.isFetchingNextPage} onClick={() => list.fetchNextPage()}>
          Show what came before
        </button>
      )}
    </div>
  );
}

function Line({ r }: { r: Row }) {
  const { clock } = useFormats();
  return (
    <li className="grid grid-cols-[56px_1fr] gap-x-3 py-1.5 text-body">
      <span className="pt-px text-note text-ink-3 tabular-nums">{clock(r.at)}</span>
      <div>
        <b>{r.by}</b> {r.said}
        {r.details.length > 0 && (
          <ul className="mt-1 border-l-2 border-cobalt-pale pl-3 text-note text-ink-2">
            {r.details.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
        )}
      </div>
    </li>
  );
}
