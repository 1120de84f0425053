import { Link, useParams } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useStory } from "../../api/queries/journal";
import { Failed, Loading, State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";

type Act = Schemas["StoryAct"];

/** The whole story of one batch on one page: what it was, what went in, everything that happened, what the label said. */
export default function Story() {
  const id = Number(useParams().id);
  const story = useStory(id);
  const { day, kept, num } = useFormats();
  if (story.isPending) return <Loading what="the record" />;
  if (story.isError) return <Failed message={problemOf(story.error).title} again={() => story.refetch()} />;
  const s = story.data;
  return (
    <div className="prints px-6 pt-4.5 pb-8 max-tablet:px-3">
      <header className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 tabIndex={-1} className="font-title text-display font-semibold">
          {s.name}, {s.code}
        </h1>
        <State of={s.state} />
        <p className="text-body text-ink-2">
          version {s.version}, made {day(s.made_on, true)}, {num(s.jars_planned)} jars planned by {s.planned_by}
        </p>
        <span className="ml-auto flex items-center gap-2 print:hidden">
          <Link className="btn-quiet inline-flex items-center" to={`/trace/batch/${s.id}`}>
            What is in it, who has it
          </Link>
          <a className="btn inline-flex items-center" href={`/api/batches/${s.id}/record.pdf`}>
            As PDF
          </a>
        </span>
      </header>
      <div className="sheet px-6 py-5">
        <div className="grid grid-cols-2 gap-x-10 gap-y-6 max-desk:grid-cols-1 print:block">
          <Facts head="What stands of it" facts={s.facts} />
          <Lines s={s} />
        </div>
        <section aria-labelledby="acts" className="mt-6">
          <h2 id="acts" className="phase mb-1 text-lead">
            Everything that happened
          </h2>
          <table className="w-full border-collapse text-body">
            <thead className="sr-only">
              <tr>
                <th>No.</th>
                <th>When</th>
                <th>Who</th>
                <th>What</th>
              </tr>
            </thead>
            <tbody>
              {s.acts.map((a) => (
                <Row key={a.seq} a={a} />
              ))}
            </tbody>
          </table>
        </section>
        {s.label.length > 0 && (
          <div className="mt-6">
            <Facts head="What the label said" facts={s.label} />
          </div>
        )}
        <p className="mt-6 border-t border-rule pt-2 text-note text-ink-2">
          {s.shop}, batch record {s.code}, drawn {kept(s.drawn_at)}. Head of the book: <code className="break-all">{s.head}</code>
        </p>
      </div>
    </div>
  );
}

/** Decisions stand out; what is put right points to what it puts right. */
function Row({ a }: { a: Act }) {
  const { moment } = useFormats();
  const cell = "border-b border-rule-soft py-1.5 pr-3 align-top";
  const strong = ["decision", "recall", "made_good"].includes(a.kind);
  return (
    <tr id={`act-${a.seq}`} className="target:bg-cobalt-tint">
      <td className={`${cell} w-11 text-right text-ink-3 tabular-nums`}>{a.seq}</td>
      <td className={`${cell} w-32.5 whitespace-nowrap text-ink-2`}>{moment(a.at)}</td>
      <td className={`${cell} w-22.5`}>{a.by}</td>
      <td className={`${cell} ${strong ? "font-semibold" : ""}`}>
        {a.said}
        {a.corrects > 0 && (
          <>
            {", "}
            <a className="text-cobalt underline" href={`#act-${a.corrects}`}>
              in the place of no. {a.corrects}
            </a>
          </>
        )}
      </td>
    </tr>
  );
}

function Facts({ head, facts }: { head: string; facts: Schemas["StoryFact"][] }) {
  return (
    <section>
      <h2 className="phase mb-1 text-lead">{head}</h2>
      <dl className="text-body">
        {facts.map((f, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: facts stand in their order, and some have the same name
          <div key={i} className="grid grid-cols-[112px_1fr] gap-3 border-b border-rule-soft py-1.5">
            <dt className="text-ink-2">{i > 0 && facts[i - 1].what === f.what ? "" : f.what}</dt>
            <dd>{f.says}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function Lines({ s }: { s: Schemas["Story"] }) {
  const { num } = useFormats();
  const head = "border-b border-rule-strong py-1 pr-3 text-left text-note font-normal text-ink-2";
  const cell = "border-b border-rule-soft py-1.5 pr-3 align-top";
  return (
    <section aria-labelledby="lines" className="print:mt-5">
      <h2 id="lines" className="phase mb-1 text-lead">
        What went in
      </h2>
      <table className="w-full border-collapse text-body">
        <thead>
          <tr>
            <th className={head}>Line</th>
            <th className={`${head} text-right`}>Target</th>
            <th className={`${head} text-right whitespace-nowrap`}>Weighed g</th>
            <th className={head}>From lots</th>
          </tr>
        </thead>
        <tbody>
          {s.lines.map((l) => (
            <tr key={l.name}>
              <td className={cell}>{l.name}</td>
              <td className={`${cell} text-right whitespace-nowrap text-ink-2 tabular-nums`}>{num(l.target_g, 1)}</td>
              <td className={`${cell} text-right font-semibold whitespace-nowrap tabular-nums`}>
                {l.actual_g === null ? "" : num(l.actual_g, 1)}
              </td>
              <td className={cell}>
                {l.lots.map((x) => (
                  <span key={`${x.id} ${x.code}`} className="mr-3 inline-block whitespace-nowrap" title={`${x.supplier} ${x.said}`.trim()}>
                    {x.id > 0 ? (
                      <Link className="text-cobalt underline" to={`/trace/lot/${x.id}`}>
                        {x.code}
                      </Link>
                    ) : (
                      x.code
                    )}
                    {l.lots.length > 1 && <span className="text-ink-2"> {num(x.grams, 1)} g</span>}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
