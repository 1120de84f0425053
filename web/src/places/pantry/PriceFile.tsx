import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { ChooseIngredient } from "../../parts/choose";
import { DateField } from "../../parts/date";
import { Modal, TextField } from "../../parts/form";
import { Segmented } from "../../parts/marks";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { useAct } from "../../saving/act";
import { fixed } from "../../tongue/quantity";
import { say } from "../../tongue/words";
import { packWords } from "./Offers";

type Reading = Schemas["PriceReading"];
type Way = Schemas["PriceWay"];
type Found = Schemas["PriceFound"];
type Answers = Record<string, Schemas["PriceAnswer"]>;

/** What of a row still asks something, in a word; empty where nothing does. */
export function opens(r: Found, answer?: Schemas["PriceAnswer"]): "" | "which" | "wrong" | "far" {
  if (r.left) return "";
  if (!r.ingredient) return "which";
  if (r.wrong.length > 0) return "wrong";
  return r.held && !answer?.confirmed ? "far" : "";
}

/** The bytes of a file as they are sent. */
export async function base64Of(file: Blob): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}

/** A supplier's price file as it came, matched to the pantry: everything that is open stands here at once. */
export function PriceFile({ file, onClose }: { file: File; onClose: () => void }) {
  const client = useQueryClient();
  const [content, setContent] = useState<string | null>(null);
  const [way, setWay] = useState<Way>({});
  const [rows, setRows] = useState<Answers>({});
  const [reading, setReading] = useState<Reading | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const asked = useRef(0);
  useEffect(() => {
    void base64Of(file).then(setContent);
  }, [file]);
  useEffect(() => {
    if (content === null) return;
    const mine = ++asked.current;
    take(api.POST("/prices/read", { body: { content, way, rows } }))
      .then((r) => {
        if (mine !== asked.current) return; // an older answer
        setReading(r);
        setProblem(null);
      })
      .catch((e) => mine === asked.current && setProblem(problemOf(e)));
  }, [content, way, rows]);
  const [send, busy] = useAct(async () => {
    if (content === null) return;
    try {
      const done = await take(api.POST("/prices", { body: { content, way, rows } }));
      await refreshAll(client);
      toast(`${say("prices_added", { count: done.added })}, ${done.same} were there already.`);
      onClose();
    } catch (e) {
      setProblem(problemOf(e));
    }
  });
  const set = (c: Partial<Way>) => setWay((old) => ({ ...old, ...c }));
  const name = (text: string, id: string) => setWay((old) => ({ ...old, names: { ...old.names, [text]: id } }));
  const answer = (line: number, c: Partial<Schemas["PriceAnswer"]>) =>
    setRows((old) => ({ ...old, [line]: { ...(old[line] ?? { leave: false, confirmed: false }), ...c } }));
  const asks = reading?.asks ?? [];
  const open = reading?.rows.filter((r) => opens(r, rows[r.line])) ?? [];
  const settled = reading?.rows.filter((r) => !opens(r, rows[r.line])) ?? [];
  const ready = !!reading && asks.length === 0 && open.length === 0 && reading.add > 0;
  return (
    <Modal open onClose={onClose} title={`Prices from ${file.name}`} width={1080}>
      {problem && (
        <div role="alert" className="mb-3 border-l-4 border-beet bg-beet-tint px-3 py-2 text-body">
          <b className="text-beet">{problem.title}</b>
          {problem.fields.length > 1 && (
            <ul className="mt-1 list-disc pl-5">
              {problem.fields.map((f) => (
                <li key={f.field + f.message}>
                  {f.field}: {f.message}
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
      {!reading && !problem && <p className="text-ink-2">Reading the file …</p>}
      {reading && (
        <>
          <p className="text-body">
            {reading.known && "Read as this supplier's last file was. "}
            <b>{reading.add}</b> to take in, {reading.same} there already, {reading.left} left out
            {open.length > 0 && (
              <>
                , <b className="text-mustard-ink">{open.length} still ask something</b>
              </>
            )}
            .
          </p>
          {asks.length > 0 && (
            <section aria-label="About the whole file" className="mt-3 grid gap-3 border-l-4 border-mustard bg-mustard-tint px-4 py-3">
              {asks.map((q) => (
                <Ask key={q.key} ask={q} reading={reading} way={way} onSet={set} />
              ))}
            </section>
          )}
          <div className="mt-4 max-h-[46vh] overflow-y-auto">
            {open.length > 0 && <Rows title="Asks something" rows={open} answers={rows} onName={name} onAnswer={answer} />}
            {settled.length > 0 && <Rows title="Settled" rows={settled} answers={rows} onName={name} onAnswer={answer} />}
          </div>
          {reading.header.length > Object.keys(reading.columns).length && (
            <p className="mt-2 text-note text-ink-3">
              Passed over: {reading.header.filter((h, i) => h && !Object.values(reading.columns).includes(i)).join(", ")}.
            </p>
          )}
        </>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn-line" onClick={onClose}>
          Take nothing in
        </button>
        <button type="button" className="btn" disabled={!ready || busy} onClick={() => void send()}>
          Take {say("prices", { count: reading?.add ?? 0 })} in
        </button>
      </div>
    </Modal>
  );
}

/** A question about the whole file. */
function Ask({ ask, reading, way, onSet }: { ask: Schemas["PriceAsk"]; reading: Reading; way: Way; onSet: (c: Partial<Way>) => void }) {
  const options = ask.options ?? [];
  const [typed, setTyped] = useState("");
  if (ask.key.startsWith("column:")) {
    const field = ask.key.slice("column:".length);
    return (
      <SelectField
        className="max-w-md"
        label={ask.text}
        value=""
        options={options.map((o) => [o.value, sampled(o, reading)] as const)}
        onValue={(v) => onSet({ columns: { ...reading.columns, ...way.columns, [field]: Number(v) } })}
      />
    );
  }
  if (ask.key === "date")
    return <DateField className="max-w-55" label={ask.text} value={way.date ?? ""} onValue={(date) => onSet({ date })} />;
  if (ask.key === "supplier")
    return (
      <form
        className="flex max-w-md items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          onSet({ supplier: typed.trim() });
        }}
      >
        <TextField className="flex-1" label={ask.text} value={typed} onChange={(e) => setTyped(e.target.value)} />
        <button type="submit" className="btn-line" disabled={!typed.trim()}>
          So it is
        </button>
      </form>
    );
  const key = ask.key as "decimal" | "days" | "gallon" | "currency";
  return (
    <div className="flex flex-wrap items-center gap-3 text-body">
      <span>{ask.text}</span>
      <Segmented
        label={ask.text}
        value={way[key] ?? ""}
        onChange={(v) => onSet({ [key]: v })}
        options={options.map((o) => [o.value, o.text] as const)}
      />
      {ask.suggested && (
        <span className="text-note text-ink-2">
          the rest of the file speaks for “{options.find((o) => o.value === ask.suggested)?.text}”
        </span>
      )}
    </div>
  );
}

/** A column with what stands in it first. */
function sampled(o: Schemas["PriceOption"], reading: Reading): string {
  const first = reading.samples.map((r) => r[Number(o.value)]).find(Boolean);
  return first ? `${o.text}: ${first}` : o.text;
}

function Rows({
  title,
  rows,
  answers,
  onName,
  onAnswer,
}: {
  title: string;
  rows: Found[];
  answers: Answers;
  onName: (text: string, id: string) => void;
  onAnswer: (line: number, c: Partial<Schemas["PriceAnswer"]>) => void;
}) {
  const { money, day, shop } = useFormats();
  return (
    <table className="ledger mb-4 w-full">
      <caption className="phase pb-1 text-left text-body">{title}</caption>
      <thead>
        <tr>
          <th className="w-10">Line</th>
          <th>In the file</th>
          <th>In the pantry</th>
          <th className="num">Price, pack</th>
          <th className="num">{shop.currency} a usable kg</th>
          <th className="w-28" />
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => {
          const answer = answers[r.line];
          const why = opens(r, answer);
          return (
            <tr key={r.line} className="align-top">
              <td className="text-ink-3">{r.line}</td>
              <td className="max-w-55">
                <span className="block truncate" title={r.text}>
                  {r.text}
                </span>
                <span className="text-note text-ink-3">
                  {[r.offer.supplier, r.offer.date && `from ${day(r.offer.date, true)}`].filter(Boolean).join(", ")}
                </span>
              </td>
              <td className="max-w-70">
                {r.left ? (
                  <span className="text-ink-3">left out</span>
                ) : why === "which" ? (
                  <span className="flex flex-wrap gap-1">
                    {r.suggested.map((s) => (
                      <button
                        key={s.value}
                        type="button"
                        className="btn-line px-2! py-0! text-note"
                        onClick={() => onName(r.text, s.value)}
                      >
                        {s.text}
                      </button>
                    ))}
                    <ChooseIngredient
                      label={`Which is ${r.text}`}
                      className="btn-quiet px-1! text-note"
                      onChoose={(id) => onName(r.text, id)}
                    >
                      {r.suggested.length > 0 ? "another …" : "choose …"}
                    </ChooseIngredient>
                  </span>
                ) : (
                  <>
                    <b className="font-medium">{r.name}</b>
                    {r.wrong.map((e) => (
                      <span key={e.field + e.message} role="alert" className="block text-note font-semibold text-beet">
                        {e.message}
                      </span>
                    ))}
                  </>
                )}
                {!r.ingredient &&
                  r.wrong.map((e) => (
                    <span key={e.field + e.message} className="block text-note font-semibold text-beet">
                      {e.message}
                    </span>
                  ))}
              </td>
              <td className="num">
                {r.offer.price > 0 && fixed(r.offer.price, 2)}
                {r.offer.pack_amount > 0 && <span className="block text-note text-ink-3">{packWords(r.offer)}</span>}
              </td>
              <td className="num">
                {r.becomes_per_kg != null && (
                  <>
                    {r.was_per_kg != null && <span className="text-ink-3">{money(r.was_per_kg)} → </span>}
                    <b>{money(r.becomes_per_kg)}</b>
                  </>
                )}
                {r.held && r.was_per_kg != null && r.becomes_per_kg != null && (
                  <span className="block text-note font-semibold text-mustard-ink">{times(r.becomes_per_kg / r.was_per_kg)}</span>
                )}
              </td>
              <td className="text-right">
                {r.same && !r.left ? (
                  <span className="text-note text-ink-3">there already</span>
                ) : why === "far" ? (
                  <button type="button" className="btn-line px-2! py-0! text-note" onClick={() => onAnswer(r.line, { confirmed: true })}>
                    It is right
                  </button>
                ) : null}
                {r.left ? (
                  <button
                    type="button"
                    className="btn-quiet px-1! text-note"
                    onClick={() => (answer?.leave ? onAnswer(r.line, { leave: false }) : onName(r.text, ""))}
                  >
                    Take it
                  </button>
                ) : (
                  !r.same && (
                    <button
                      type="button"
                      className="btn-quiet px-1! text-note"
                      aria-label={`Leave out: ${r.text}`}
                      onClick={() => (why === "which" ? onName(r.text, "-") : onAnswer(r.line, { leave: true }))}
                    >
                      Leave out
                    </button>
                  )
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** By how much a price moves, in words. */
export function times(ratio: number): string {
  if (!(ratio > 0)) return "";
  return ratio >= 1 ? `${fixed(ratio, 1)} times as much` : `${fixed(1 / ratio, 1)} times less`;
}
