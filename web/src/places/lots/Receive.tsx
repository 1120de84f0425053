import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, type FieldError, fieldMessage, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { guarded } from "../../api/guard";
import { refreshAll } from "../../api/queries/keys";
import { useIngredients } from "../../api/queries/pantry";
import { DateField } from "../../parts/date";
import { Head, TextField } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { useAct } from "../../saving/act";
import { useKept } from "../../saving/kept";
import { today } from "../../tongue/clock";
import { say } from "../../tongue/words";
import { ReceiveRow } from "./ReceiveRow";
import { asNewLot, asText, type Column, EMPTY, isTyped, paste, type RowText, wrongFigures } from "./rows";

type Taken = Schemas["TakenIn"];

/** A delivery note, row by row: typed, pasted from a spreadsheet, or read from a file. */
export default function Receive() {
  const { shop, day, money, celsius } = useFormats();
  const me = useMe();
  const accept = me.may("maker");
  const pantry = useIngredients();
  const [head, setHead, headDone] = useKept("delivery head", { supplier: "", note: "", day: today(), again: "" }, "The delivery");
  const [rows, setRows, rowsDone] = useKept<RowText[]>("delivery rows", [{ ...EMPTY, accept }], "The delivery");
  const [problem, setProblem] = useState<Problem | null>(null);
  const [wrong, setWrong] = useState<Record<number, FieldError[]>>({});
  const [taken, setTaken] = useState<Taken | null>(null);
  const table = useRef<HTMLTableElement>(null);
  const file = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const typed = rows.filter(isTyped).length;
  /** The cell that is to have the focus once it is there. */
  const [goal, setGoal] = useState("");
  useEffect(() => {
    const cell = goal && table.current?.querySelector<HTMLElement>(`[data-cell="${goal}"]`);
    if (!cell) return;
    cell.focus();
    setGoal("");
  });
  const focus = (row: number, column: string) => setGoal(`${row}.${column}`);
  const set = (i: number, part: Partial<RowText>) => {
    setRows((all) => {
      const next = all.map((r, k) => (k === i ? { ...r, ...part } : r));
      return isTyped(next[next.length - 1]) ? [...next, { ...EMPTY, accept }] : next;
    });
    setWrong((w) => ({ ...w, [i]: (w[i] ?? []).filter((f) => !(f.field in part)) }));
  };
  const onPaste = (i: number, column: Column, text: string) => {
    setRows((all) => [
      ...paste(all, i, column, text, accept).filter((r, k, list) => k < list.length - 1 || isTyped(r)),
      { ...EMPTY, accept },
    ]);
  };
  const look = async () => {
    const list = rows.filter(isTyped);
    if (list.length === 0) return;
    try {
      const answers = await take(
        api.POST("/deliveries/look", { body: { supplier: head.supplier || "?", day: head.day, lots: list.map(asNewLot) } }),
      );
      const next: Record<number, FieldError[]> = {};
      let n = 0;
      rows.forEach((r, i) => {
        if (isTyped(r)) next[i] = answers[n++]?.wrong ?? [];
      });
      setWrong(next);
    } catch {
      // looked over again when it is taken in
    }
  };
  const errorsOf = (i: number): Record<string, string> => {
    const out: Record<string, string> = {};
    for (const f of wrong[i] ?? []) out[f.field] = f.message;
    const place = rows.slice(0, i).filter(isTyped).length;
    if (isTyped(rows[i]))
      for (const f of problem?.fields ?? []) {
        const m = /^lots\[(\d+)\]\.(.+)$/.exec(f.field);
        if (m && Number(m[1]) === place) out[m[2]] = f.message;
      }
    return { ...out, ...wrongFigures(rows[i]) };
  };
  const [takeIn, busy] = useAct(async () => {
    const list = rows.filter(isTyped);
    const bad = rows.findIndex((r) => Object.keys(wrongFigures(r)).length > 0);
    if (bad >= 0) {
      focus(bad, Object.keys(wrongFigures(rows[bad]))[0]);
      return;
    }
    try {
      const done = await take(api.POST("/deliveries", { body: { ...head, lots: list.map(asNewLot) } }));
      await refreshAll(client);
      setTaken(done);
      headDone();
      rowsDone();
      setProblem(null);
    } catch (e) {
      const p = problemOf(e);
      setProblem(p);
      setWrong({});
      const m = /^lots\[(\d+)\]\.(\w+)/.exec(p.fields[0]?.field ?? "");
      if (m) focus(rows.indexOf(list[Number(m[1])]), m[2]);
    }
  });
  const readFile = async (f: File) => {
    const answer = await guarded("/api/deliveries/read", {
      method: "POST",
      headers: { "Content-Type": "application/octet-stream" },
      body: f,
    });
    const body = await answer.json();
    if (!answer.ok) {
      setProblem(body as Problem);
      return;
    }
    const list = body as Schemas["ReadRow"][];
    setProblem(null);
    setRows([...list.map((r) => asText(r, accept)), { ...EMPTY, accept }]);
    setWrong(Object.fromEntries(list.map((r, i) => [i, r.wrong])));
    toast(`${list.length} rows were read; look them over, then take them in.`);
  };
  const another = () => {
    setTaken(null);
    setRows([{ ...EMPTY, accept }]);
    setHead({ ...head, note: "", again: "" });
  };
  if (taken) return <Done taken={taken} again={another} />;
  return (
    <form
      className="flex h-full flex-col px-6 pt-4"
      onSubmit={(e) => {
        e.preventDefault();
        void takeIn();
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
          e.preventDefault();
          void takeIn();
        }
      }}
    >
      <Head title="Take a delivery in" sub="one row for each lot on the note">
        <Link to="/stock" className="btn-quiet inline-flex items-center">
          Stock
        </Link>
        <button type="button" className="btn-quiet" onClick={() => file.current?.click()}>
          Read a file
        </button>
        <input
          ref={file}
          type="file"
          accept=".csv,.tsv,.txt,.xlsx"
          className="sr-only"
          tabIndex={-1}
          aria-label="Delivery note as a file"
          onChange={(e) => {
            const f = e.target.files?.[0];
            e.target.value = "";
            if (f) void readFile(f);
          }}
        />
        <button type="submit" className="btn" disabled={busy || typed === 0}>
          Take {typed === 0 ? "it" : typed === 1 ? "one lot" : `${typed} lots`} in
        </button>
      </Head>
      <div className="mt-3 grid max-w-205 grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_170px] gap-4">
        <TextField
          label="Supplier"
          autoFocus
          value={head.supplier}
          onChange={(e) => setHead({ ...head, supplier: e.target.value })}
          error={fieldMessage(problem, "supplier")}
        />
        <TextField
          label="Delivery note"
          value={head.note}
          onChange={(e) => setHead({ ...head, note: e.target.value, again: "" })}
          error={fieldMessage(problem, "note")}
          hint="its number, so that it is not taken in twice"
        />
        <DateField
          label="Came in on"
          max={today()}
          value={head.day}
          onValue={(day) => setHead({ ...head, day: day })}
          error={fieldMessage(problem, "day")}
        />
      </div>
      {problem && (
        <div className="mt-3 max-w-205" role="alert">
          <Caution level="danger" title={problem.title}>
            {fieldMessage(problem, "again") ? (
              <TextField
                className="mt-2"
                label="Why it is another delivery"
                value={head.again}
                onChange={(e) => setHead({ ...head, again: e.target.value })}
              />
            ) : (
              "Nothing was taken in; all you typed is here."
            )}
          </Caution>
        </div>
      )}
      <section className="sheet mt-3 min-h-0 flex-1 overflow-x-auto overflow-y-auto">
        <table ref={table} className="ledger w-full min-w-265 table-fixed">
          <thead>
            <tr>
              <th className="w-9" />
              <th>What came in</th>
              <th className="w-29.5 pl-2">how much</th>
              <th className="w-28 pl-2">their lot</th>
              <th className="w-35 pl-2">ends</th>
              <th className="w-24 pl-2">cost of all, {shop.currency}</th>
              <th className="w-18 pl-2">arrived °C</th>
              <th className="w-33 pl-2">kill-step statement</th>
              <th className="w-44 pl-3" />
            </tr>
          </thead>
          <tbody>
            {rows.map((r, i) => (
              <ReceiveRow
                // biome-ignore lint/suspicious/noArrayIndexKey: rows have no identity but their place
                key={i}
                n={i}
                r={r}
                pantry={pantry.data ?? []}
                errors={errorsOf(i)}
                onChange={(part) => set(i, part)}
                onPaste={(c, text) => onPaste(i, c, text)}
                onLook={() => void look()}
                onNext={(c) => {
                  if (i === rows.length - 1) setRows((all) => [...all, { ...EMPTY, accept }]);
                  focus(i + 1, c);
                }}
                onDrop={rows.length > 1 ? () => setRows((all) => all.filter((_, k) => k !== i)) : undefined}
              />
            ))}
          </tbody>
        </table>
        {typed === 0 && (
          <div className="max-w-160 px-12 py-6 text-body text-ink-2">
            <p className="font-title text-title text-ink">Type the first row, or let the note do it.</p>
            <p className="mt-2">
              Copy the rows of the note from a spreadsheet and paste them into “What came in”: goods, how much, their lot, ends, cost,
              temperature, statement, in this order. A file (CSV or XLSX) is read by the names over its columns.
            </p>
            <p className="mt-3 border-l-4 border-wash pl-3">
              Strained yogurt · 3 x 2 kg · Y-3402 · {day("2026-12-12")} · {money(29.4)} · {celsius(4.2)}
              <br />
              Roasted hazelnuts · 2 x 2500 g · HZ 26-118 · {day("2027-05-14")} · {money(77)} · certificate 0926-4
            </p>
          </div>
        )}
      </section>
      <p className="py-2 text-note text-ink-2">
        Tab along, Enter down, Ctrl + Enter takes it in; cells pasted from a spreadsheet fill the rows below. Write how much as it stands on
        the note: {say("packs")}.{!accept && " A maker or an owner accepts what you take in."}
      </p>
    </form>
  );
}

/** What was taken in, with the stickers for it. */
function Done({ taken, again }: { taken: Taken; again: () => void }) {
  const { num, day } = useFormats();
  const navigate = useNavigate();
  const batch = Number(useSearchParams()[0].get("for")) || 0; // the weigh sheet that asked for it
  const next = useRef<HTMLButtonElement>(null);
  useEffect(() => next.current?.focus(), []);
  return (
    <div className="px-6 pt-4">
      <Head title="It is in" sub={`${taken.delivery.supplier}${taken.delivery.note ? `, note ${taken.delivery.note}` : ""}`}>
        <button type="button" className="btn-quiet" onClick={again}>
          Take another in
        </button>
        <button type="button" ref={next} className="btn" onClick={() => navigate(batch ? `/batches/${batch}/weigh` : "/stock")}>
          {batch ? "Back to the weigh sheet" : "To the stock"}
        </button>
      </Head>
      <ul className="mt-4 grid max-w-225 grid-cols-2 gap-4">
        {taken.lots.map((x) => (
          <li key={x.id} className="sheet flex items-center gap-4 p-4">
            <span className="min-w-0 flex-1">
              <Link to={`/lots/${x.id}`} className="font-title text-display leading-tight font-semibold text-cobalt">
                {x.code}
              </Link>
              <span className="block truncate text-body font-medium">{x.name}</span>
              <span className="block text-note text-ink-2">
                {num(x.on_hand_g)} g{x.ends ? `, ends ${day(x.ends, true)}` : ""}
              </span>
              {x.bar && <span className="block text-note font-semibold text-mustard-ink">{x.bar}</span>}
            </span>
            <a className="btn-line inline-flex items-center" href={`/api/lots/${x.id}/sticker`} target="_blank" rel="noreferrer">
              Sticker
            </a>
          </li>
        ))}
      </ul>
      <p className="mt-3 text-note text-ink-2">
        Put the sticker on before it goes to the shelf: the code is what the weigh sheet asks for.
      </p>
    </div>
  );
}
