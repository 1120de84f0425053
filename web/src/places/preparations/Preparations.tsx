import { useEffect, useRef, useState } from "react";
import { Link, NavLink, useNavigate, useParams } from "react-router";
import { problemOf } from "../../api/client";
import { usePreparations } from "../../api/queries/preparations";
import { Head } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { Step } from "./Step";
import { StepEditor } from "./StepEditor";
import { type PreparationData, stepWords } from "./ways";

/** Kitchen steps: what goes in, what comes out, and how much of it. */
export default function Preparations() {
  const { id } = useParams();
  const navigate = useNavigate();
  const { num } = useFormats();
  const list = usePreparations();
  const [find, setFind] = useState("");
  const [adding, setAdding] = useState(false);
  const table = useRef<HTMLUListElement>(null);
  const loaded = !!list.data;
  useEffect(() => {
    if (loaded && id) table.current?.querySelector(`[data-step="${CSS.escape(id)}"]`)?.scrollIntoView({ block: "nearest" });
  }, [id, loaded]);
  if (list.isPending) return <Loading what="the preparations" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const want = find.trim().toLowerCase();
  const shown = list.data.filter((p) =>
    `${p.input_name} ${p.output_name} ${p.co_output_name} ${stepWords(p.name)}`.toLowerCase().includes(want),
  );
  const own = (p: PreparationData) => (p.records?.length ?? 0) > 0 || !p.typical || p.preferred;
  const ordered = [...shown.filter(own), ...shown.filter((p) => !own(p))];
  const current = list.data.find((p) => p.id === id) ?? (id ? undefined : ordered[0]);
  return (
    <div className="flex h-full flex-col px-6 pt-4 pb-4 max-tablet:h-auto max-tablet:px-3">
      <Head title="Preparations" sub={`${list.data.length} kitchen steps, ${list.data.filter(own).length} of them your own or recorded`}>
        <Link to="/pantry" className="btn-quiet inline-flex items-center">
          To the pantry
        </Link>
        <button type="button" className="btn" onClick={() => setAdding(true)}>
          Add a step of yours
        </button>
      </Head>
      <div className="mt-3 flex min-h-0 flex-1 gap-5 max-tablet:flex-col">
        <section
          className="sheet flex min-h-0 w-101 shrink-0 flex-col max-desk:w-76 max-tablet:max-h-[40vh] max-tablet:w-full"
          aria-label="Kitchen steps"
        >
          <div className="border-b border-rule p-2">
            <input
              className="field"
              aria-label="Find a step"
              placeholder="Find by what goes in or comes out"
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
          </div>
          <ul ref={table} className="min-h-0 flex-1 overflow-y-auto">
            {ordered.map((p) => (
              <li key={p.id} data-step={p.id}>
                <NavLink
                  to={`/preparations/${encodeURIComponent(p.id)}`}
                  className={`grid grid-cols-[minmax(0,1fr)_112px] items-center gap-3 border-b border-rule-soft px-3 py-1.5 hover:bg-cobalt-tint ${current?.id === p.id ? "bg-cobalt-tint shadow-edge" : ""}`}
                >
                  <span className="min-w-0">
                    <b className="block truncate text-body font-semibold">{p.input_name}</b>
                    <span className="block truncate text-note text-ink-2">
                      <i className="phase">{stepWords(p.name)}</i> gives {p.output_name}
                      {p.co_output_name && ` and ${p.co_output_name}`}
                    </span>
                  </span>
                  <span className="text-right">
                    <YieldBar p={p} width={70} />
                    <span className="text-body font-semibold">
                      {num(p.expected.percent, p.expected.percent < 10 ? 1 : 0)}
                      <span className="unit">%</span>
                    </span>
                  </span>
                </NavLink>
              </li>
            ))}
            {ordered.length === 0 && <li className="p-4 text-body text-ink-2">No step by that name. Add one of yours.</li>}
          </ul>
        </section>
        <div className="min-h-0 min-w-0 flex-1 overflow-y-auto pr-1">
          {current ? <Step key={current.id} p={current} all={list.data} /> : <p className="text-ink-2">This step is not here any more.</p>}
        </div>
      </div>
      {adding && (
        <StepEditor
          onClose={() => setAdding(false)}
          onSaved={(p) => {
            setAdding(false);
            navigate(`/preparations/${encodeURIComponent(p.id)}`);
          }}
        />
      )}
    </div>
  );
}

/** How much of what goes in comes out: solid where makings were recorded, hatched where it is typical. */
function YieldBar({ p, width }: { p: PreparationData; width: number }) {
  const full = Math.max(100, p.expected.percent + p.expected.co_percent);
  return (
    <span aria-hidden className="mr-2 inline-flex h-2.5 border border-cobalt bg-white align-middle" style={{ width }}>
      <span className={p.expected.trials > 0 ? "bg-cobalt" : "hatch"} style={{ width: `${(100 * p.expected.percent) / full}%` }} />
      {p.expected.co_percent > 0 && <span className="bg-mustard" style={{ width: `${(100 * p.expected.co_percent) / full}%` }} />}
    </span>
  );
}
