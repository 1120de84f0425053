import { useState } from "react";
import { problemOf, type Schemas } from "../../api/client";
import { PaperTag } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { useAct } from "../../saving/act";
import { readNumber } from "../../tongue/quantity";
import { say } from "../../tongue/words";
import type { Act, Line, Recall } from "./fates";
import { Found } from "./Here";

type Party = Schemas["RecallParty"];
type Letter = Schemas["RecallLetter"];

/** Who has jars: they are told, then asked what they still have. Whoever was not told comes first. */
export function Who({ v, act }: { v: Recall; act: Act }) {
  const list = [...v.parties].sort((a, b) => Number(!!a.told) - Number(!!b.told) || b.jars - a.jars);
  const untold = list.filter((p) => !p.told).length;
  const authority = v.letters.find((l) => l.party === 0);
  return (
    <section className="sheet max-desk:order-first" aria-labelledby="who">
      <h2 id="who" className="phase flex items-baseline justify-between border-b border-rule px-4 py-2.5 text-lead">
        Tell who has them
        <span className="font-text text-note not-italic">{untold > 0 ? `${untold} to tell` : list.length > 0 ? "all were told" : ""}</span>
      </h2>
      {list.length === 0 && <p className="px-4 py-3 text-body text-ink-2">No jar of it left the shop: nobody is to be told.</p>}
      <ul>
        {list.map((p) => (
          <PartyRow key={p.id} v={v} p={p} act={act} letter={v.letters.find((l) => l.party === p.id)} />
        ))}
        {authority && (
          <li className="px-4 py-3">
            <b className="text-lead">The authority</b>
            <p className="text-note text-ink-2">
              Your local rules say who must hear of it, and how soon. This is a draft of what they ask; they decide what else is done.
            </p>
            <LetterOf letter={authority} />
          </li>
        )}
      </ul>
    </section>
  );
}

function PartyRow({ v, p, act, letter }: { v: Recall; p: Party; act: Act; letter?: Letter }) {
  const { clock } = useFormats();
  const [telling, setTelling] = useState(false);
  const [how, setHow] = useState("");
  const [wrong, setWrong] = useState("");
  const reached = v.reached.find((r) => r.party === p.id);
  const lines = v.lines.filter((l) => l.place === "with" && l.party === p.id);
  const [told, busy] = useAct(async () => {
    try {
      await act({ kind: "told", told: { party: p.id, how } });
      setTelling(false);
      setWrong("");
    } catch (e) {
      const x = problemOf(e);
      setWrong(x.fields[0]?.message ?? x.title);
    }
  });
  return (
    <li className={`border-b border-rule-soft px-4 py-2.5 last:border-b-0 ${p.told ? "" : "border-l-4 border-l-mustard pl-3"}`}>
      <div className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          <b className="block text-lead [overflow-wrap:anywhere]">{p.name}</b>
          <span className="block text-note text-ink-2 [overflow-wrap:anywhere]">
            {say("jars", { count: p.jars })}
            {reached?.contact
              ? `, ${reached.contact}`
              : reached?.market
                ? ", a market: a notice where they buy"
                : ", nobody wrote how to reach them"}
          </span>
        </div>
        {!p.told && !v.closed_at && !telling && (
          <button type="button" className="btn-line shrink-0" aria-label={`They are told: ${p.name}`} onClick={() => setTelling(true)}>
            They are told
          </button>
        )}
        {p.told && (
          <span className="text-right text-note text-ink-2">
            <b className="text-leaf">told {clock(p.told)}</b>
            <span className="block">
              {p.how}, {p.by}
            </span>
          </span>
        )}
        {!p.told && v.closed_at && <b className="text-note text-beet">never told</b>}
      </div>
      {telling && (
        <form
          className="mt-2 flex items-start gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void told();
          }}
        >
          <span className="flex-1">
            <input
              aria-label={`How ${p.name} was told`}
              aria-invalid={!!wrong}
              className="field"
              placeholder={reached?.market ? "a notice at the stall and on our page" : "by phone, Maud"}
              // biome-ignore lint/a11y/noAutofocus: the act that opened it asks for this
              autoFocus
              value={how}
              onChange={(e) => setHow(e.target.value)}
            />
            {wrong && (
              <span role="alert" className="mt-1 block text-note font-semibold text-beet">
                {wrong}
              </span>
            )}
          </span>
          <button type="submit" className="btn" disabled={busy}>
            Write it down
          </button>
          <button type="button" className="btn-quiet" onClick={() => setTelling(false)}>
            Not yet
          </button>
        </form>
      )}
      {letter && !v.closed_at && <LetterOf letter={letter} />}
      {p.told && lines.map((l) => <AnswerRow key={l.batch} l={l} act={act} closed={!!v.closed_at} who={p.name} />)}
    </li>
  );
}

/** What somebody still has, and what went on. */
function AnswerRow({ l, act, closed, who }: { l: Line; act: Act; closed: boolean; who: string }) {
  const [again, setAgain] = useState(false);
  const [held, setHeld] = useState("");
  const [sold, setSold] = useState("");
  const [wrong, setWrong] = useState("");
  const [put, busy] = useAct(async () => {
    const [h, s] = [readNumber(held || "0"), readNumber(sold || "0")];
    if (h === null || s === null || !Number.isInteger(h) || !Number.isInteger(s) || held + sold === "") {
      setWrong("whole numbers of jars; 0 where there are none");
      return;
    }
    try {
      await act({ kind: "answered", answered: { party: l.party ?? 0, batch: l.batch, held: h, sold: s } });
      setAgain(false);
      setWrong("");
    } catch (e) {
      const x = problemOf(e);
      setWrong(x.fields[0]?.message ?? x.title);
    }
  });
  const settled = l.looked && !again;
  return (
    <form
      className="mt-1 flex min-h-9.5 flex-wrap items-center gap-2 border-t border-rule-soft pt-1 text-body"
      onSubmit={(e) => {
        e.preventDefault();
        void put();
      }}
    >
      <span className="min-w-0 flex-1" title={l.name}>
        <b>{l.code}</b>, {l.jars}
      </span>
      {settled || closed ? (
        <>
          {l.looked ? <Found l={l} /> : <span className="text-beet">no answer</span>}
          {!closed && (
            <button type="button" className="btn-quiet" aria-label={`Again: ${l.code} with ${who}`} onClick={() => setAgain(true)}>
              Again
            </button>
          )}
        </>
      ) : (
        <>
          <label className="flex items-center gap-1">
            set apart
            <input
              aria-label={`Jars of ${l.code} that ${who} set apart`}
              inputMode="numeric"
              className="field w-14! text-right"
              value={held}
              onChange={(e) => setHeld(e.target.value)}
            />
          </label>
          <label className="flex items-center gap-1">
            sold or used
            <input
              aria-label={`Jars of ${l.code} that ${who} sold or used`}
              inputMode="numeric"
              className="field w-14! text-right"
              value={sold}
              onChange={(e) => setSold(e.target.value)}
            />
          </label>
          <button type="submit" className="btn-line" disabled={busy} aria-label={`They say so: ${l.code}, ${who}`}>
            They say so
          </button>
        </>
      )}
      {wrong && (
        <p role="alert" className="w-full text-right text-note font-semibold text-beet">
          {wrong}
        </p>
      )}
    </form>
  );
}

/** A text to send, opened under whom it is for. */
function LetterOf({ letter }: { letter: Letter }) {
  const [open, setOpen] = useState(false);
  const mail = /\S+@\S+\.\S+/.exec(letter.contact)?.[0].replace(/[,;]$/, "");
  return (
    <div className="mt-1 print:hidden">
      <button
        type="button"
        aria-expanded={open}
        aria-label={`${open ? "Fold the letter" : "The letter"} to ${letter.to}`}
        className="text-note font-semibold text-cobalt underline underline-offset-2"
        onClick={() => setOpen(!open)}
      >
        {open ? "Fold the letter" : "The letter"}
      </button>
      {open && (
        <div className="mt-2">
          <PaperTag>
            <b className="block">{letter.subject}</b>
            <pre className="mt-2 font-text text-note leading-normal whitespace-pre-wrap">{letter.text}</pre>
          </PaperTag>
          <p className="mt-2 flex gap-2">
            <button
              type="button"
              className="btn-line"
              onClick={async () => {
                await navigator.clipboard.writeText(`${letter.subject}\n\n${letter.text}`);
                toast("The letter is copied.");
              }}
            >
              Copy it
            </button>
            {mail && (
              <a
                className="btn-line inline-flex items-center"
                href={`mailto:${mail}?subject=${encodeURIComponent(letter.subject)}&body=${encodeURIComponent(letter.text)}`}
              >
                Write to {mail}
              </a>
            )}
          </p>
        </div>
      )}
    </div>
  );
}
