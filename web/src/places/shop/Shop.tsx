import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, fieldMessage, type Schemas, take } from "../../api/client";
import { useRules } from "../../api/queries/keeping";
import { keys, refreshAll } from "../../api/queries/keys";
import { settingsOf } from "../../api/queries/shop";
import { Head } from "../../parts/form";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { Clash, plainSide } from "../../saving/Clash";
import { same } from "../../saving/merge";
import { useUnsaved } from "../../saving/unsaved";
import { useAutosave } from "../../saving/useAutosave";
import { HistoryButton } from "../history/History";
import { People } from "../people/People";
import { Backups } from "./Backups";
import { BundleFiles } from "./Bundle";
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
          <Backups />
          <BundleFiles />
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
