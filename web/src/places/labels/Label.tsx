import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { api, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { useDevices } from "../../api/queries/devices";
import { refreshLabel, refreshPrinted, useLabel } from "../../api/queries/labels";
import { Head, Modal } from "../../parts/form";
import { Caution, Failed, Loading, State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { underKey } from "../../saving/insist";
import { allergenWords } from "../formulas/Panel";
import { HistoryButton } from "../history/History";
import { CheckList } from "./CheckList";
import { type Change, Choices } from "./Choices";
import { Flat, JarScene } from "./JarScene";
import { Runs } from "./Runs";

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

/** Labels that jars of the batch still lack. */
const lacking = (v: View) => Math.max(0, v.jars - (v.printed - v.spoilt));

function Page({ v, batch, choose }: { v: View; batch: number; choose: (b: number) => void }) {
  const client = useQueryClient();
  const { shop } = useFormats();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [wanted, setWanted] = useState<number | null>(null);
  const [from, setFrom] = useState<number | null>(null);
  const [flat, setFlat] = useState(false);
  const [dateOnly, setDateOnly] = useState(false);
  const [edition, setEdition] = useState("");
  const [busy, setBusy] = useState(false);
  const [asked, setAsked] = useState<{ title: string; to?: Printer } | null>(null);
  const count = wanted ?? (lacking(v) || v.jars);
  const place = from ?? v.place;
  const here = { id: v.id };
  const query = { rev: v.rev, ...(batch ? { batch } : {}) };

  /** Runs an act on the label and shows what came of it. */
  const act = async (run: () => Promise<View>) => {
    setBusy(true);
    try {
      await refreshLabel(client, v.id, batch, await run());
      setProblem(null);
      return true;
    } catch (e) {
      const p = problemOf(e);
      if (p.code === "changed_meanwhile" && p.current) await refreshLabel(client, v.id, batch, p.current as unknown as View);
      setProblem(p);
      return false;
    } finally {
      setBusy(false);
    }
  };
  const put = (c: Change, confirm = false) =>
    act(() =>
      take(
        api.PUT("/labels/{id}", {
          params: { path: here, query },
          body: {
            width_mm: c.width_mm ?? v.width_mm,
            height_mm: c.height_mm ?? v.height_mm,
            confirm,
            design: { ...v.design, ...c.design },
          },
        }),
      ),
    );
  const confirm = async () => {
    if (await put({}, true)) toast("The label has the formula's words now.");
  };
  const answer = (key: string) =>
    act(() => take(api.POST("/labels/{id}/answer", { params: { path: here, query }, body: { answer: key } })));
  const spoil = (n: number) =>
    act(() =>
      underKey(`spoilt ${v.id} ${batch} ${v.spoilt} ${n}`, (key) =>
        take(api.POST("/labels/{id}/spoilt", { params: { path: here, query: { key } }, body: { batch, count: n } })),
      ),
    );
  const printer = useDevices().data?.find((d) => d.kind === "printer" && d.counts);
  const print = async (to?: Printer, sure = false) => {
    setBusy(true);
    setAsked(null);
    try {
      const pdf = await underKey(`print ${v.id} ${batch} ${v.printed} ${count} ${place} ${dateOnly} ${to?.id ?? ""}`, (key) =>
        take(
          api.POST("/labels/{id}/print", {
            params: { path: here, query: { key } },
            body: {
              batch,
              count,
              from: v.paper.kind === "sheet" ? place : 0,
              sure,
              ...(dateOnly && !v.hold ? { part: "date", edition } : {}),
              ...(to ? { printer: to.id } : {}),
            },
            parseAs: "blob",
          }),
        ),
      );
      if (!to) save(pdf as unknown as Blob, `${v.hold ? "hold" : "label"}-${v.batch?.code}.pdf`);
      setProblem(null);
      setWanted(null);
      setFrom(null);
      const what = `${count} ${v.hold ? "HOLD stickers" : dateOnly ? "dates" : "labels"}`;
      toast(to ? `${to.name} has ${what}; the run is in the batch record.` : `${what} in the PDF; the run is in the batch record.`);
      void refreshPrinted(client, v.id);
    } catch (e) {
      const p = problemOf(e);
      if (p.code === "more_than_jars") setAsked({ title: p.title, to });
      else setProblem(p);
    } finally {
      setBusy(false);
    }
  };
  const ready = !busy && !!batch && (v.hold || v.blocking.length === 0) && count > 0;
  const law = shop.laws.find((l) => l.regime === v.regime)?.title ?? v.regime;
  return (
    <div className="flex h-full flex-col px-6 pt-4 max-tablet:px-3">
      <Head title={v.formula_name} sub={`${law} label, version ${v.batch?.version ?? v.newest_locked}`} state={<State of={v.state} />}>
        <HistoryButton of="label" id={String(v.id)} title={`the ${v.regime} label`} />
        {printer && (
          <button type="button" className="btn-line" disabled={!ready} onClick={() => print(printer)}>
            Send to {printer.name.toLowerCase()}
          </button>
        )}
        <button type="button" className="btn" disabled={!ready} onClick={() => print()}>
          {v.hold ? `Print ${count} HOLD stickers` : batch ? `Print ${count} ${dateOnly ? "dates" : "labels"}` : "Print labels"}
        </button>
      </Head>
      <Choices
        v={v}
        batch={batch}
        place={place}
        setPlace={setFrom}
        dateOnly={dateOnly}
        setDateOnly={setDateOnly}
        edition={edition}
        setEdition={setEdition}
        choose={(b) => {
          setWanted(null);
          setFrom(null);
          choose(b);
        }}
        save={(c) => {
          if (c.design?.stock !== undefined) setFrom(null);
          void put(c);
        }}
        problem={problem}
      />
      {problem && !fieldMessage(problem, "width_mm", "design.barcode", "design.jar", "spoilt", "count", "from") && (
        <p role="alert" className="mt-2 border-l-4 border-beet bg-beet-tint px-3 py-1 text-note font-semibold text-beet">
          {problem.title}
        </p>
      )}
      <div className="mt-3 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_330px] gap-6 pb-4 max-desk:grid-cols-[minmax(0,1fr)_264px] max-desk:gap-4 max-tablet:block">
        <div className="min-h-0 overflow-y-auto">
          {v.state === "stop_using" && (
            <div className="mb-3">
              <Caution level="danger" title="Stop using this label.">
                It does not name {allergenWords(v.allergens_gained)}, which the product now contains.
              </Caution>
            </div>
          )}
          <div className="relative border border-paper-edge">
            {v.jar && (
              <div className="absolute top-2 left-3 z-10 flex overflow-hidden rounded-sm border border-rule-strong bg-white text-note">
                {[
                  [false, "on the jar"],
                  [true, "flat"],
                ].map(([is, word]) => (
                  <button
                    key={String(word)}
                    type="button"
                    aria-pressed={flat === is}
                    className="min-h-8 cursor-pointer px-3 aria-pressed:bg-cobalt aria-pressed:font-semibold aria-pressed:text-white"
                    onClick={() => setFlat(is === true)}
                  >
                    {word}
                  </button>
                ))}
              </div>
            )}
            {flat || !v.jar || !v.fits ? <Flat v={v} /> : <JarScene v={v} />}
          </div>
          <Runs
            confirm={() => void confirm()}
            busy={busy}
            v={v}
            batch={batch}
            count={count}
            setCount={setWanted}
            place={place}
            spoil={(n) => void spoil(n)}
            problem={problem}
          />
        </div>
        <CheckList v={v} batch={batch} answer={(key) => void answer(key)} busy={busy} />
      </div>
      <Modal open={!!asked} onClose={() => setAsked(null)} title="More labels than jars" width={460} calm>
        <p className="text-body">{asked?.title}</p>
        <div className="mt-4 flex justify-end gap-3">
          <button type="button" className="btn-line" onClick={() => setAsked(null)}>
            Print fewer
          </button>
          <button type="button" className="btn" onClick={() => print(asked?.to, true)}>
            Print them all the same
          </button>
        </div>
      </Modal>
    </div>
  );
}

interface Printer {
  id: string;
  name: string;
}

/** Hands a file to whoever is at the screen. */
function save(file: Blob, name: string) {
  const url = URL.createObjectURL(file);
  const a = document.createElement("a");
  a.href = url;
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}
