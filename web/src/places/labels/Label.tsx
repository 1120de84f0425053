import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { toast } from "sonner";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { useDevices } from "../../api/queries/devices";
import { refreshLabel, refreshPrinted, useLabel } from "../../api/queries/labels";
import { Head } from "../../parts/form";
import { Caution, Failed, Loading, State } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { underKey } from "../../saving/insist";
import { allergenWords } from "../formulas/Panel";
import { HistoryButton } from "../history/History";

type View = Schemas["LabelView"];

export default function Label() {
  const id = Number(useParams().id);
  const [params, setParams] = useSearchParams();
  const batch = Number(params.get("batch") ?? 0) || 0;
  const label = useLabel(id, batch);
  if (label.isPending) return <Loading what="the label" />;
  if (label.isError) return <Failed message={problemOf(label.error).title} again={() => label.refetch()} />;
  return <Page v={label.data} batch={batch} choose={(b) => setParams(b ? { batch: String(b) } : {}, { replace: true })} />;
}

const MARK: Record<string, { sign: string; word: string; tone: string }> = {
  pass: { sign: "✓", word: "pass", tone: "text-leaf" },
  fail: { sign: "✕", word: "fail", tone: "text-beet" },
  decide: { sign: "?", word: "you decide", tone: "text-mustard-ink" },
};

function Page({ v, batch, choose }: { v: View; batch: number; choose: (b: number) => void }) {
  const client = useQueryClient();
  const { day } = useFormats();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [width, setWidth] = useState<number | null>(v.width_mm);
  const [height, setHeight] = useState<number | null>(v.height_mm);
  const [count, setCount] = useState<number | null>(v.batch?.jars ?? 24);
  const [printing, setPrinting] = useState(false);
  const save = async (confirm: boolean) => {
    try {
      const next = await take(
        api.PUT("/labels/{id}", {
          params: { path: { id: v.id }, query: { rev: v.rev, ...(batch ? { batch } : {}) } },
          body: { width_mm: width ?? 0, height_mm: height ?? 0, confirm },
        }),
      );
      void refreshLabel(client, v.id, batch, next);
      setProblem(null);
      if (confirm) toast("The label has the formula's words now.");
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  const printer = useDevices().data?.find((d) => d.kind === "printer" && d.counts);
  const print = async (to?: { id: string; name: string }) => {
    setPrinting(true);
    try {
      const pdf = await underKey(`print ${v.id} ${batch} ${count} ${to?.id ?? ""}`, (key) =>
        take(
          api.POST("/labels/{id}/print", {
            params: { path: { id: v.id }, query: { key } },
            body: { batch, count: count ?? 0, ...(to ? { printer: to.id } : {}) },
            parseAs: "blob",
          }),
        ),
      );
      if (!to) {
        const url = URL.createObjectURL(pdf as unknown as Blob);
        const a = document.createElement("a");
        a.href = url;
        a.download = `${v.hold ? "hold" : "label"}-${v.batch?.code}.pdf`;
        a.click();
        setTimeout(() => URL.revokeObjectURL(url), 60_000);
      }
      setProblem(null);
      const what = `${count} ${v.hold ? "HOLD stickers" : "labels"}`;
      toast(to ? `${to.name} has ${what}; the run is in the batch record.` : `${what} in the PDF; the run is in the batch record.`);
      void refreshPrinted(client, v.id);
    } catch (e) {
      setProblem(problemOf(e));
    } finally {
      setPrinting(false);
    }
  };
  const failures = v.points.filter((p) => p.state === "fail").length;
  const resized = width !== v.width_mm || height !== v.height_mm;
  return (
    <div className="flex h-full min-w-[1000px] flex-col px-6 pt-4">
      <Head title={v.formula_name} sub={`${v.regime} label, version ${v.batch?.version ?? v.newest_locked}`} state={<State of={v.state} />}>
        <HistoryButton of="label" id={String(v.id)} title={`the ${v.regime} label`} />
        {v.state !== "current" && (
          <button type="button" className="btn-line" onClick={() => save(true)}>
            Bring the words up to date
          </button>
        )}
        {printer && (
          <button
            type="button"
            className="btn-line"
            disabled={printing || !batch || (!v.hold && v.blocking.length > 0)}
            onClick={() => print(printer)}
          >
            Send to {printer.name.toLowerCase()}
          </button>
        )}
        <button type="button" className="btn" disabled={printing || !batch || (!v.hold && v.blocking.length > 0)} onClick={() => print()}>
          {v.hold ? "Print HOLD stickers" : "Print labels"}
        </button>
      </Head>
      <div className="mt-3 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_380px] gap-6 pb-4">
        <div className="min-h-0 overflow-y-auto">
          <div className="flex flex-wrap items-end gap-3">
            <SelectField
              label="For the batch"
              className="w-[290px]"
              value={String(batch)}
              options={[
                ["0", "none: the formula alone"] as const,
                ...v.batches.map(
                  (b) => [String(b.id), `${b.code}, made ${day(b.made_on)}, ${b.state === "hold" ? "on hold" : b.state}`] as const,
                ),
              ]}
              onValue={(chosen) => choose(Number(chosen))}
            />
            <NumberField
              className="w-24"
              label="Wide"
              unit="mm"
              value={width}
              onValue={setWidth}
              error={fieldMessage(problem, "width_mm")}
            />
            <NumberField className="w-24" label="High" unit="mm" value={height} onValue={setHeight} />
            {resized && (
              <button type="button" className="btn-line" onClick={() => save(false)}>
                Set again
              </button>
            )}
            <NumberField
              className="w-28"
              label="Count"
              unit="pieces"
              value={count}
              onValue={setCount}
              error={fieldMessage(problem, "count")}
            />
            {v.printed > 0 && <span className="pb-2 text-[12.5px] text-ink-2">{v.printed} printed for this batch</span>}
          </div>
          {problem && !fieldMessage(problem, "width_mm", "count") && (
            <p role="alert" className="mt-3 border-l-4 border-beet bg-beet-tint px-3 py-1 text-[13px] font-semibold text-beet">
              {problem.title}
            </p>
          )}
          {v.state === "stop_using" && (
            <div className="mt-3">
              <Caution level="danger" title="Stop using this label.">
                It does not name {allergenWords(v.allergens_gained)}, which the product now contains.
              </Caution>
            </div>
          )}
          <div className="mt-8 mb-6 flex justify-center">
            <div
              className="relative bg-white shadow-[0_3px_14px_#1c2c4a2e] [&_svg]:block"
              style={{ width: `${v.width_mm}mm`, height: `${v.height_mm}mm` }}
              // biome-ignore lint/security/noDangerouslySetInnerHtml: the drawing comes from our own server, every word in it as a path or escaped
              dangerouslySetInnerHTML={{ __html: v.svg }}
            />
          </div>
          <p className="text-center text-[12.5px] text-ink-2">
            real size, {v.width_mm} × {v.height_mm} mm{v.fits ? "" : "; it does not fit, see the check list"}
          </p>
          {v.change.length > 0 && (
            <section className="sheet mt-6 p-4">
              <h2 className="phase mb-1 text-[15px]">What changed since the label was confirmed</h2>
              <p className="text-[13.5px] leading-[1.7]">
                {v.change.map((c, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: pieces have no identity but their place
                  <span key={i}>
                    {c.kind === "gone" ? (
                      <del className="bg-beet-tint text-beet">{c.text}</del>
                    ) : c.kind === "new" ? (
                      <ins className="bg-leaf-tint font-semibold text-leaf no-underline">{c.text}</ins>
                    ) : (
                      c.text
                    )}{" "}
                  </span>
                ))}
              </p>
            </section>
          )}
          <section className="sheet mt-6 p-4">
            <h2 className="phase mb-1 text-[15px]">Nutrition in 100 g, as it would be rounded</h2>
            <dl className="grid grid-cols-4 gap-x-6 gap-y-1 text-[13px]">
              {v.nutrition.map((f) => (
                <div key={f.name + f.printed} className="flex justify-between border-b border-rule-soft">
                  <dt>{f.name}</dt>
                  <dd className="font-semibold">{f.printed}</dd>
                </div>
              ))}
            </dl>
          </section>
        </div>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and must do so by keyboard too */}
        <aside aria-label="Check list" tabIndex={0} className="min-h-0 overflow-y-auto pr-1">
          <h2 className="mb-2 flex items-baseline justify-between text-[14px] font-semibold">
            Check list
            <small className={`text-[12.5px] font-normal ${failures ? "text-beet" : "text-leaf"}`}>
              {failures ? `${failures} to put right` : "nothing fails"}
            </small>
          </h2>
          {v.hold && (
            <div className="mb-3">
              <Caution level="danger" title="On hold.">
                Only HOLD stickers are printed until{" "}
                <Link to={`/batches/${batch}`} className="font-semibold text-cobalt underline">
                  the batch
                </Link>{" "}
                is released.
              </Caution>
            </div>
          )}
          {!batch && (
            <div className="mb-3">
              <Caution level="needs_you" title="Choose a batch to print.">
                Date and lot come from it.
              </Caution>
            </div>
          )}
          <ul>
            {v.points.map((p) => {
              const m = MARK[p.state];
              return (
                <li
                  key={p.title + p.why}
                  className="grid grid-cols-[22px_minmax(0,1fr)_auto] gap-x-1 border-b border-rule py-[6px] text-[13px]"
                >
                  <span aria-hidden className={`font-bold ${m.tone}`}>
                    {m.sign}
                  </span>
                  <b>{p.title}</b>
                  <span className={`text-[12px] ${m.tone}`}>{m.word}</span>
                  <span className="col-start-2 col-end-4 text-[12.5px] text-ink-2">{p.why}</span>
                </li>
              );
            })}
          </ul>
          <p className="mt-3 text-[12.5px] text-ink-2">Gallipot drafts and checks. You and your authority decide.</p>
        </aside>
      </div>
    </div>
  );
}
