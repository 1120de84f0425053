import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, problemOf, type Schemas, take } from "../../api/client";
import { refreshLot, useLot } from "../../api/queries/lots";
import { Head } from "../../parts/form";
import { Caution, Failed, Loading, State } from "../../parts/marks";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { underKey } from "../../saving/insist";
import { dateWord } from "../../tongue/words";
import { HistoryButton } from "../history/History";
import { ActDialog, type ActKind, type NewLotEntry } from "./acts";
import { CorrectDialog } from "./CorrectDialog";
import { FreezeDialog } from "./FreezeDialog";
import { actWords } from "./words";

type View = Schemas["LotView"];

/** A lot: what is known of it, what is left, what it went into, and what may be done with it. */
export default function LotPage() {
  const id = Number(useParams().id);
  const client = useQueryClient();
  const lot = useLot(id);
  if (lot.isPending) return <Loading what="the lot" />;
  if (lot.isError) return <Failed message={problemOf(lot.error).title} again={() => lot.refetch()} />;
  const act = async (entry: NewLotEntry) => {
    const next = await underKey(`lot ${id} ${JSON.stringify(entry)}`, (key) =>
      take(api.POST("/lots/{id}/entries", { params: { path: { id }, query: { key } }, body: entry })),
    );
    refreshLot(client, next);
  };
  return <Page v={lot.data} act={act} />;
}

const LOOK: Record<string, string> = { open: "released", waiting: "draft", hold: "hold", refused: "rejected" };

function Page({ v, act }: { v: View; act: (e: NewLotEntry) => Promise<void> }) {
  const { num, day, money, celsius, kept, shop } = useFormats();
  const me = useMe();
  const [doing, setDoing] = useState<ActKind | "freeze" | "correct" | null>(null);
  const x = v.record.came_in;
  const incoming = v.kind === "incoming";
  const buttons: [ActKind | "freeze" | "correct", string, string][] = [];
  const maker = me.may("maker");
  if (incoming && maker && (v.state === "waiting" || (v.state === "refused" && me.may("owner"))))
    buttons.push(["accepted", "Accept", "btn"]);
  if (v.list_differs && me.may("owner")) buttons.push(["compared", "The allergens are looked at", "btn-line"]);
  if (v.record.froze && !v.record.thawed) buttons.push(["thawed", "Take out to thaw", "btn"]);
  if (v.state === "hold" && v.record.state === "hold" && me.may("owner")) buttons.push(["freed", "Take off hold", "btn-line"]);
  if (v.needs_proof && !v.proof) buttons.push(["stated", "Statement found", "btn-line"], ["roasted", "Roasted here", "btn-line"]);
  if (v.can_freeze && maker) buttons.push(["freeze", "Freeze a part", "btn-quiet"]);
  buttons.push(["counted", "Count", "btn-quiet"], ["thrown", "Throw away", "btn-quiet"]);
  if (incoming && maker) buttons.push(["correct", "Correct", "btn-quiet"]);
  if (maker && v.record.state !== "hold" && v.record.state !== "refused") buttons.push(["held", "Hold", "btn-beet"]);
  if (incoming && maker && v.state !== "refused") buttons.push(["refused", "Refuse", "btn-beet"]);
  return (
    <div className="px-6 pt-4 pb-6 max-tablet:px-3">
      <Head title={v.code} sub={v.name} state={<State of={LOOK[v.state] ?? v.state} word={STATE_WORDS[v.state]} />}>
        <Link to={v.ingredient ? `/stock?of=${v.ingredient}` : "/stock"} className="btn-quiet inline-flex items-center">
          Stock
        </Link>
        <HistoryButton of="lot" id={String(v.id)} title={v.code} />
        <a className="btn-line inline-flex items-center" href={`/api/lots/${v.id}/sticker`} target="_blank" rel="noreferrer">
          Sticker
        </a>
      </Head>
      {(v.why_not || v.asks) && (
        <div className="mt-2 grid max-w-225 gap-2">
          {v.why_not && (
            <Caution
              level={v.state === "waiting" ? "needs_you" : "danger"}
              title={v.state === "waiting" ? "It waits:" : "It may not be used:"}
            >
              {v.why_not}.
            </Caution>
          )}
          {v.state === "waiting" && v.asks && (
            <Caution level="danger" title="Look before it is accepted:">
              {v.asks}. Only an owner accepts it, with a reason.
            </Caution>
          )}
          {v.list_differs && (
            <Caution level="danger" title="The packet is printed differently.">
              Before: “{x.list_was || "no list"}”. Now: “{x.list}”. Look at the allergens of{" "}
              <Link className="font-semibold text-cobalt underline" to={`/pantry/${v.ingredient}`}>
                {v.name}
              </Link>{" "}
              again; an owner says that it was done.
            </Caution>
          )}
        </div>
      )}
      <div className="mt-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] items-start gap-5 max-tablet:grid-cols-1">
        <section className="sheet p-5" aria-label="What is left">
          <Balance v={v} />
          <dl className="mt-4 grid grid-cols-[150px_minmax(0,1fr)] gap-y-1.5 text-body">
            <Fact name={dateWord(v.end_kind ?? "use_by")}>{v.ends ? day(v.ends, true) : <span className="text-ink-3">no end</span>}</Fact>
            {v.record.froze && (
              <Fact name="frozen">
                {day(v.record.froze.day, true)}, of{" "}
                <Link className="font-semibold text-cobalt" to={`/lots/${v.record.froze.from}`}>
                  {v.record.froze.code}
                </Link>
                {v.record.froze.left_days != null && `, which had ${v.record.froze.left_days} days left`}
              </Fact>
            )}
            {v.record.thawed && <Fact name="thawed">{day(v.record.thawed, true)}; never frozen again</Fact>}
            {incoming && (
              <>
                <Fact name="came in">
                  {day(x.day, true)} from {x.supplier}
                  {v.delivery?.note ? `, note ${v.delivery.note}` : ""}
                </Fact>
                <Fact name="their lot">{x.text || <span className="text-ink-3">none on it</span>}</Fact>
                <Fact name="how much">{x.pack}</Fact>
                <Fact name="cost">
                  {x.cost == null ? (
                    <span className="text-ink-3">not told</span>
                  ) : (
                    `${money(x.cost)} ${shop.currency}${v.per_gram != null ? `, ${money(v.per_gram * 1000)} a kg` : ""}`
                  )}
                </Fact>
                {x.arrival_c != null && (
                  <Fact name="on arrival">
                    {celsius(x.arrival_c)}
                    {x.limit_c != null && <span className="text-ink-2">, at most {celsius(x.limit_c)}</span>}
                  </Fact>
                )}
                {x.strength != null && <Fact name="acid on the packet">{num(x.strength, 1)} g in 100 mL</Fact>}
                {x.ph != null && <Fact name="pH on the packet">{num(x.ph, 2)}</Fact>}
                {x.list && <Fact name="printed list">{x.list}</Fact>}
                {x.note && <Fact name="note">{x.note}</Fact>}
              </>
            )}
            {!incoming && v.per_gram != null && (
              <Fact name="cost">
                {money(v.per_gram * 1000)} {shop.currency} a kg, from the book
              </Fact>
            )}
            {v.needs_proof && <Fact name="kill step">{v.proof || <b className="text-mustard-ink">neither statement nor roast</b>}</Fact>}
          </dl>
          <div className="mt-5 flex flex-wrap gap-2 border-t border-rule pt-4">
            {buttons.map(([kind, text, look]) => (
              <button key={kind} type="button" className={look} onClick={() => setDoing(kind)}>
                {text}
              </button>
            ))}
          </div>
          {v.twins.length > 0 && (
            <div className="mt-4">
              <Caution level="needs_you" title="The same words of the same supplier are on another lot:">
                {v.twins.map((t) => (
                  <Link key={t.id} className="mr-2 font-semibold text-cobalt underline" to={`/lots/${t.id}`}>
                    {t.code}
                  </Link>
                ))}
                A supplier's recall of these words is of all of them.
              </Caution>
            </div>
          )}
        </section>
        <div className="grid gap-5">
          <section className="sheet p-5" aria-label="What it went into">
            <h2 className="phase mb-1 text-lead">What it went into</h2>
            {v.into.length === 0 && v.parts.length === 0 && <p className="text-body text-ink-2">Nothing yet.</p>}
            <ul>
              {v.into.map((b) => (
                <li key={b.id}>
                  <Link
                    to={`/batches/${b.id}`}
                    className="grid grid-cols-[92px_minmax(0,1fr)_auto_84px] items-center gap-3 border-b border-rule-soft py-2 hover:bg-cobalt-tint"
                  >
                    <b className="text-cobalt">{b.code}</b>
                    <span className="min-w-0 truncate">{b.formula_name}</span>
                    <State of={b.state} />
                    <span className="text-right font-medium">
                      {num(b.taken_g, 1)}
                      <span className="unit">g</span>
                    </span>
                  </Link>
                </li>
              ))}
              {v.parts.map((p) => (
                <li key={p.id}>
                  <Link
                    to={`/lots/${p.id}`}
                    className="grid grid-cols-[92px_minmax(0,1fr)_84px] items-center gap-3 border-b border-rule-soft py-2 hover:bg-cobalt-tint"
                  >
                    <b className="text-cobalt">{p.code}</b>
                    <span className="min-w-0 truncate">{p.frozen ? "a part, frozen" : "a part, thawed"}</span>
                    <span className="text-right font-medium">
                      {num(p.received_g, 1)}
                      <span className="unit">g</span>
                    </span>
                  </Link>
                </li>
              ))}
            </ul>
            {v.into_all > v.into.length && <p className="mt-2 text-note text-ink-2">and {v.into_all - v.into.length} older batches</p>}
          </section>
          {v.entries.length > 0 && (
            <section className="sheet p-5" aria-label="Its record">
              <h2 className="phase mb-2 text-lead">Its record</h2>
              <ol className="grid gap-1.5">
                {v.entries.toReversed().map((e) => (
                  <li key={e.id} className="border-l-3 border-rule pl-2.5 text-body">
                    {actWords(e)}{" "}
                    <span className="text-ink-2">
                      {e.by}, {kept(e.at)}
                    </span>
                  </li>
                ))}
              </ol>
            </section>
          )}
        </div>
      </div>
      {doing && doing !== "freeze" && doing !== "correct" && <ActDialog kind={doing} v={v} act={act} onClose={() => setDoing(null)} />}
      {doing === "freeze" && <FreezeDialog v={v} onClose={() => setDoing(null)} />}
      {doing === "correct" && <CorrectDialog v={v} act={act} onClose={() => setDoing(null)} />}
    </div>
  );
}

const STATE_WORDS: Record<string, string> = { open: "in use", waiting: "waits", hold: "on hold", refused: "refused" };

function Fact({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div className="contents">
      <dt className="text-note text-ink-2">{name}</dt>
      <dd className="[overflow-wrap:anywhere]">{children}</dd>
    </div>
  );
}

/** What came in, and where it went: the bar is all of it. */
function Balance({ v }: { v: View }) {
  const { num } = useFormats();
  const parts: [string, number, string][] = [
    ["used", v.used_g, "bg-ink-2"],
    ["frozen apart", v.parted_g, "bg-water"],
    ["thrown away", v.thrown_g, "bg-beet"],
    ["left", Math.max(0, v.on_hand_g), v.state === "waiting" ? "hatch" : "bg-cobalt"],
  ];
  const all = Math.max(
    parts.reduce((s, [, g]) => s + g, 0),
    1,
  );
  const counted = v.corrected_g + v.thrown_g;
  return (
    <>
      <p className="flex items-baseline gap-3">
        <span className={`figure leading-none font-semibold tracking-tight ${v.on_hand_g < 0 ? "text-beet" : ""}`}>
          {num(v.on_hand_g, 1)}
          <span className="unit">g left</span>
        </span>
        <span className="text-body text-ink-2">of {num(v.received_g, 1)} g</span>
      </p>
      <div className="mt-3 flex h-4.5 border border-rule-strong bg-white" aria-hidden>
        {parts.map(([name, g, look]) => g > 0 && <span key={name} className={look} style={{ width: `${(100 * g) / all}%` }} />)}
      </div>
      <ul className="mt-2 flex flex-wrap gap-x-5 gap-y-1 text-note">
        {parts.map(
          ([name, g, look]) =>
            (g > 0 || name === "left") && (
              <li key={name} className="flex items-center gap-1.5">
                <span aria-hidden className={`size-2.75 ${look}`} />
                <span className="text-ink-2">{name}</span> <b>{num(name === "left" ? v.on_hand_g : g, 1)}</b>
                <span className="unit">g</span>
              </li>
            ),
        )}
        {counted !== 0 && (
          <li className="text-ink-2">
            counted {counted > 0 ? "more" : "less"}: <b className="text-ink">{num(Math.abs(counted), 1)}</b>
            <span className="unit">g</span>
          </li>
        )}
      </ul>
      {v.on_hand_g < 0 && (
        <p className="mt-2 text-note font-semibold text-beet">More was used than the book says came in: count it, or find the delivery.</p>
      )}
    </>
  );
}
