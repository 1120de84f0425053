import { useState } from "react";
import { Link } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { usePrint, useRested } from "../../api/queries/batches";
import { Modal } from "../../parts/form";
import { Emphasised, Failed, Loading } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { capital, dateWord } from "../../tongue/words";
import { drawn } from "../labels/JarScene";

type Verdict = Schemas["Verdict"];
type Document = Schemas["DocumentKept"];
type Rule = Schemas["RuleKept"];

/** What a decision rested on, as kept with it. Later changes do not show here. */
export function RestedButton({ batch, entry }: { batch: number; entry: number }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
        What this rested on
      </button>
      <Modal open={open} onClose={() => setOpen(false)} title="What this rested on" width={820}>
        {open && <Rested batch={batch} entry={entry} />}
      </Modal>
    </>
  );
}

function Rested({ batch, entry }: { batch: number; entry: number }) {
  const { kept: moment, num } = useFormats();
  const kept = useRested(batch, entry);
  if (kept.isPending) return <Loading what="what was kept" />;
  if (kept.isError) return <Failed message={problemOf(kept.error).title} />;
  const r = kept.data;
  return (
    <div className="grid gap-5 text-body">
      <div className="flex items-end justify-between gap-6 border-b-3 border-double border-rule-strong pb-3">
        <p className="max-w-[46ch]">
          Kept on {moment(r.at)} with the decision of <b>{r.by}</b>, of version {r.version}. Nothing that changed since shows here.
          {r.late.length > 0 && (
            <span className="block font-semibold text-mustard-ink">
              {r.late.length === 1 ? "1 entry" : `${r.late.length} entries`} made more than 12 hours late.
            </span>
          )}
        </p>
        {r.acidity.value > 0 && (
          <p className="figure leading-none font-semibold tracking-tight">
            {num(r.acidity.value, 2)}
            <small className="ml-2 text-note font-medium tracking-normal text-ink-2">decision value</small>
          </p>
        )}
      </div>
      <p>{r.acidity.sentence}</p>
      <Verdicts verdicts={r.verdicts} lastDay={r.last_day} />
      <Documents documents={r.documents} needed={r.needed} />
      <Lots lots={r.lots} />
      <Words words={r.words} />
      <Rules rules={r.rules} />
    </div>
  );
}

export function Verdicts({ verdicts, lastDay }: { verdicts: Record<string, Verdict>; lastDay?: Record<string, string> }) {
  const { day } = useFormats();
  return (
    <section>
      <h3 className="phase mb-1 text-body">Under each law</h3>
      <dl className="grid grid-cols-[44px_1fr] gap-y-1">
        {Object.entries(verdicts).map(([law, v]) => (
          <div key={law} className="contents">
            <dt className="font-semibold">{law.toUpperCase()}</dt>
            <dd>
              {lastDay?.[law] && <b>{`${capital(dateWord(v.date_kind ?? ""))} ${day(lastDay[law], true)}. `}</b>}
              <span className={v.refused || v.ambient_lacks.length > 0 ? "text-beet" : ""}>{v.reason}</span>
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

export function Documents({ documents, needed = [] }: { documents: Document[]; needed?: number[] }) {
  return (
    <section>
      <h3 className="phase mb-1 text-body">Documents</h3>
      {documents.length === 0 && <p className="text-ink-2">None.</p>}
      <ul>
        {documents.map((d) => (
          <li key={d.id}>
            <a className="text-cobalt underline" href={`/api/evidence/${d.id}`}>
              {d.title}
            </a>
            {d.days ? `, ${d.days} days` : ""}
            {d.issued_by ? `, issued by ${d.issued_by}` : ""}
            {needed.includes(d.id) && <b> (needed)</b>}
            {d.fingerprint && <span className="ml-2 text-note text-ink-3">fingerprint {d.fingerprint.slice(0, 12)}…</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The lots that it was made of, as they were. */
function Lots({ lots }: { lots: Schemas["LotFacts"][] }) {
  const { day } = useFormats();
  if (lots.length === 0) return null;
  return (
    <section>
      <h3 className="phase mb-1 text-body">The lots it was made of, as they were</h3>
      <ul className="grid gap-x-5 phone:grid-cols-2">
        {lots.map((x) => (
          <li key={x.id} className="grid grid-cols-[72px_minmax(0,1fr)] gap-2 border-b border-rule-soft py-1 text-note">
            <Link className="font-semibold text-cobalt" to={x.kind === "batch" ? `/batches/${x.batch}` : `/lots/${x.id}`}>
              {x.code}
            </Link>
            <span className="min-w-0">
              <span className="block truncate">{x.name}</span>
              <span className="block text-note text-ink-2">
                {[x.supplier, x.text, x.ends ? `ends ${day(x.ends, true)}` : "", x.proof].filter(Boolean).join(", ")}
              </span>
              {x.bar && <span className="block text-note font-semibold text-beet">{x.bar}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function Words({ words }: { words: Record<string, Schemas["LabelFacts"]> }) {
  return (
    <section>
      <h3 className="phase mb-1 text-body">The words of the declaration</h3>
      <dl className="grid grid-cols-[44px_1fr] gap-y-1">
        {Object.entries(words).map(([law, w]) => (
          <div key={law} className="contents">
            <dt className="font-semibold">{law.toUpperCase()}</dt>
            <dd>
              <Emphasised text={`${w.list} ${w.contains}`.trim()} />
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

export function Rules({ rules }: { rules: Rule[] }) {
  return (
    <details>
      <summary className="phase cursor-pointer text-body">The {rules.length} rules in force, with their figures</summary>
      <ol className="mt-2 grid gap-2 text-note">
        {rules.map((r) => (
          <li key={r.id} className="grid grid-cols-[26px_1fr]">
            <span className="text-ink-3">{r.id}.</span>
            <span>
              <b>{r.title}.</b> {r.text}
            </span>
          </li>
        ))}
      </ol>
    </details>
  );
}

/** What a printed label said, drawn from what was kept. */
export function PrintButton({ batch, entry }: { batch: number; entry: number }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
        What it said
      </button>
      <Modal open={open} onClose={() => setOpen(false)} title="What the label said" width={640}>
        {open && <Printed batch={batch} entry={entry} />}
      </Modal>
    </>
  );
}

function Printed({ batch, entry }: { batch: number; entry: number }) {
  const { kept: moment } = useFormats();
  const kept = usePrint(batch, entry);
  if (kept.isPending) return <Loading what="the label" />;
  if (kept.isError) return <Failed message={problemOf(kept.error).title} />;
  const p = kept.data;
  return (
    <div className="grid gap-3 text-body">
      <p>
        {p.count} {p.hold ? "HOLD stickers" : `${p.regime} labels`} of {p.width_mm} × {p.height_mm} mm, printed by <b>{p.by}</b>,{" "}
        {moment(p.at)}, with the words of version {p.version}.
      </p>
      {p.svg.map((svg, i) => (
        <img
          key={svg}
          alt={i ? "its back" : `The label as it was printed: ${p.product_name}. ${p.list} ${p.contains} ${p.date_line} ${p.lot}`}
          className="w-full border border-paper-edge bg-white"
          src={drawn(svg)}
        />
      ))}
      {!p.form && !p.hold && (
        <p className="text-note text-ink-2">Its words are as they were printed; how it was laid out was not kept then.</p>
      )}
    </div>
  );
}
