import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, fieldMessage, type Problem, type Schemas, take } from "../../api/client";
import { guarded } from "../../api/guard";
import { useRules } from "../../api/queries/keeping";
import { keys, refreshAll } from "../../api/queries/keys";
import { settingsOf } from "../../api/queries/shop";
import { Head, Modal } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { WhyDialog } from "../../parts/why";
import { Clash, plainSide } from "../../saving/Clash";
import { same } from "../../saving/merge";
import { useUnsaved } from "../../saving/unsaved";
import { useAutosave } from "../../saving/useAutosave";
import { HistoryButton } from "../history/History";
import { People } from "../people/People";
import { Money } from "./Money";
import { OnLabels } from "./OnLabels";
import { Packs } from "./Packs";
import { ShortTable } from "./ShortTable";
import { BasicFields, type Settings, WorkFields } from "./settings";
import { Things } from "./Things";
import { OwnWords } from "./Words";

const HANDS_OF = ["market", "wholesale", "trade", "distributor", "shop"] as const;

/** Shop settings, tighter rules, and the shop as one file. What is typed counts as soon as its field is left. */
export default function Shop() {
  const { shop, clock } = useFormats();
  const rules = useRules();
  const client = useQueryClient();
  const saver = useAutosave<Settings, Schemas["ShopView"]>("shop", shop, {
    what: "the shop settings",
    link: "/shop",
    bodyOf: settingsOf,
    revOf: (v) => v.rev,
    send: (body, rev, why) => take(api.PUT("/shop", { params: { query: { rev, why } }, body })),
    stored: (v) => {
      client.setQueryData(keys.shop.all, v);
      void refreshAll(client);
    },
    asks: ["loses"],
  });
  const { status, savedAt, value } = saver.held;
  const [mine, setMine] = useState<Partial<Settings>>({});
  const s = { ...value, ...mine };
  const flush = useRef(() => {});
  flush.current = () => {
    if (same(s, saver.held.value)) return setMine({});
    saver.put(s);
    setMine({});
  };
  const set = (c: Partial<Settings>) => setMine((old) => ({ ...old, ...c }));
  const problem = status === "refused" ? saver.held.problem : null;
  const losing = status === "asks" ? saver.held.problem : null;
  useUnsaved(Object.keys(mine).length > 0 ? "The shop settings" : "");
  // a field is left, or a choice is made, or a word was added or taken off: no field is left then
  const words = mine.allergen_words;
  const pricing = mine.pricing && HANDS_OF.map((k) => mine.pricing?.[k].way).join(" "); // a margin or a mark-up was pressed
  const lists = [mine.devices?.length, mine.jars?.length, mine.stocks?.length, mine.allowable?.length, pricing].join(" ").trim();
  useEffect(() => {
    if (words || lists) flush.current();
  }, [words, lists]);
  return (
    <>
      <form
        className="px-6 pt-4 pb-8"
        onSubmit={(e) => {
          e.preventDefault();
          flush.current();
        }}
        onBlur={() => flush.current()}
        onChange={(e) => {
          const t = e.target as HTMLElement;
          if (t instanceof HTMLSelectElement || (t instanceof HTMLInputElement && t.type === "checkbox"))
            queueMicrotask(() => flush.current());
        }}
      >
        <Head
          title="Shop settings"
          sub={status === "stored" ? (savedAt ? `saved ${clock(savedAt.toISOString())}` : "saved as you type") : ""}
        >
          <HistoryButton of="shop" title="the settings and people" />
          <BundleFiles />
        </Head>
        <Clash saver={saver} words={plainSide} />
        {problem && problem.fields.length === 0 && (
          <p role="alert" className="mt-2 font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <div className="mt-4 grid max-w-265 grid-cols-2 items-start gap-5">
          <section className="sheet p-5">
            <h2 className="phase mb-3 text-lead">The shop</h2>
            <BasicFields s={s} set={set} problem={problem} />
          </section>
          <section className="sheet p-5">
            <h2 className="phase mb-3 text-lead">At work</h2>
            <WorkFields s={s} set={set} problem={problem} />
          </section>
          <Money s={s} set={set} problem={problem} />
          <Things s={s} set={set} problem={problem} />
          <Packs s={s} set={set} problem={problem} />
          <OnLabels s={s} set={set} problem={problem} />
          <ShortTable s={s} set={set} problem={problem} />
          <People />
          <OwnWords s={s} set={set} problem={problem} />
          <section className="sheet col-span-2 p-5">
            <h2 className="phase mb-1 text-lead">Tighter than the rules</h2>
            <p className="mb-3 text-note text-ink-2">
              A shop may give fewer days than a rule does, never more. Empty leaves the rule as it is.
            </p>
            <div className="grid grid-cols-6 items-end gap-4">
              {rules.data
                ?.filter((r) => r.params.days !== undefined)
                .map((r) => (
                  <NumberField
                    key={r.id}
                    label={`${r.id}. ${r.title}`}
                    unit="days"
                    allowEmpty
                    value={s.tighter_days[String(r.id)] ?? null}
                    error={fieldMessage(problem, `tighter_days.${r.id}`)}
                    onValue={(n) => {
                      const next = { ...s.tighter_days };
                      if (n === null) delete next[String(r.id)];
                      else next[String(r.id)] = n;
                      set({ tighter_days: next });
                    }}
                  />
                ))}
            </div>
          </section>
        </div>
      </form>
      <WhyDialog
        open={!!losing}
        title="An allergen would be lost"
        text={losing?.title}
        button="Take it off all the same"
        act={(why) => saver.because(why)}
        onClose={saver.letGo}
      />
    </>
  );
}

/** The whole shop as one bundle, out and in: first the plan, then all or nothing. */
function BundleFiles() {
  const input = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [plan, setPlan] = useState<Schemas["ImportPlan"] | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const send = async (f: File, apply: boolean) => {
    const r = await guarded(`/api/bundle?apply=${apply}`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: f,
    });
    const body = await r.json();
    setProblem(r.ok ? null : (body as Problem));
    setPlan(r.ok ? body : null);
    setFile(f);
    if (r.ok && apply) {
      setFile(null);
      await refreshAll(client);
      toast("The bundle is in.");
    }
  };
  return (
    <>
      <a className="btn-quiet inline-flex items-center" href="/api/bundle" download>
        Bundle out
      </a>
      <button type="button" className="btn-quiet" onClick={() => input.current?.click()}>
        Bundle in
      </button>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="sr-only"
        tabIndex={-1}
        aria-label="Bundle file"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) void send(f, false);
        }}
      />
      <Modal open={!!file} onClose={() => setFile(null)} title={problem ? "The bundle was not taken in" : "What the bundle brings"}>
        {problem && (
          <>
            <p>{problem.title}</p>
            <ul className="mt-3 max-h-72 list-disc overflow-auto pl-5 text-body">
              {problem.fields.map((f) => (
                <li key={f.field + f.message}>
                  <b>{f.field}</b>: {f.message}
                </li>
              ))}
            </ul>
          </>
        )}
        {plan && (
          <>
            <p>
              {plan.new.length} new, {plan.different.length} different, {plan.same} the same.
            </p>
            {plan.different.length > 0 && <p className="mt-2 text-note">Different, to be replaced: {plan.different.join(", ")}.</p>}
            {plan.new.length > 0 && <p className="mt-2 max-h-40 overflow-auto text-note text-ink-2">New: {plan.new.join(", ")}.</p>}
            {plan.forbidden.length > 0 && <p className="mt-2 font-semibold text-beet">{plan.forbidden.join("; ")}.</p>}
            <div className="mt-4 flex justify-end gap-2">
              <button type="button" className="btn-line" onClick={() => setFile(null)}>
                Leave it
              </button>
              <button type="button" className="btn" disabled={plan.forbidden.length > 0} onClick={() => file && send(file, true)}>
                Take it in
              </button>
            </div>
          </>
        )}
      </Modal>
    </>
  );
}
