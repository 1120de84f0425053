import { useQueryClient } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, besides, problemOf, take } from "../../api/client";
import { refreshVersions, useSheet } from "../../api/queries/formulas";
import { Head } from "../../parts/form";
import { Failed, Loading, State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { Clash, plainSide, type Side, valueWords } from "../../saving/Clash";
import type { Difference } from "../../saving/merge";
import { HistoryButton } from "../history/History";
import { Grid } from "./Grid";
import { LockList } from "./LockList";
import { PackTab } from "./PackTab";
import { Panel } from "./Panel";
import { Recomputes } from "./Recomputes";
import { TrialsTab } from "./TrialsTab";
import { type Sheet, useDraft } from "./useDraft";
import { useUndo } from "./useUndo";
import { VariantsTab } from "./VariantsTab";
import { VersionsTab } from "./VersionsTab";
import { WordsTab } from "./WordsTab";

export default function FormulaSheet() {
  const { id = "", number } = useParams();
  const n = Number(number ?? 0) || 0;
  const sheet = useSheet(id, n);
  if (sheet.isPending) return <Loading what="the sheet" />;
  if (sheet.isError) return <Failed message={problemOf(sheet.error).title} again={() => sheet.refetch()} />;
  return <Open key={`${id}/${n}/${sheet.data.version.version}/${sheet.data.version.state}`} initial={sheet.data} />;
}

const TABS = [
  ["sheet", "Sheet"],
  ["pack", "Pack and cost"],
  ["words", "Keeping and label words"],
  ["trials", "Trials"],
  ["variants", "Variants"],
  ["versions", "Versions"],
] as const;

/** Tabs that need the whole width: what stands beside the sheet is in them already. */
const WIDE = ["trials", "variants"];

function Open({ initial }: { initial: Sheet }) {
  const draft = useDraft(initial);
  const { view, version, problem } = draft;
  const { moment, clock, num } = useFormats();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [locking, setLocking] = useState(false);
  const [params, setParams] = useSearchParams();
  const tab = TABS.find(([v]) => v === params.get("part"))?.[0] ?? "sheet";
  const setTab = (v: string) => setParams(v === "sheet" ? {} : { part: v });
  const locked = version.state === "locked";
  const sheet = useRef<HTMLDivElement>(null);
  useUndo(sheet, locked ? null : draft);
  const path = { id: view.formula, number: version.version };

  const act = async (call: () => Promise<Sheet>, said: string) => {
    try {
      const next = await call();
      await refreshVersions(client, next);
      draft.adopt(next);
      toast(said);
      if (next.version.version !== version.version) navigate(`/formulas/${next.formula}/${next.version.version}`);
    } catch (e) {
      const p = problemOf(e);
      toast.error(`${p.title} ${besides(p)}`);
    }
  };
  const lock = (confirmed: string[]) =>
    act(
      () => take(api.POST("/formulas/{id}/versions/{number}/lock", { params: { path, query: { rev: draft.view.rev, confirmed } } })),
      `Version ${version.version} is locked. It never changes now.`,
    );
  const next = (body?: Sheet["version"]) =>
    act(
      () => take(api.POST("/formulas/{id}/versions", { params: { path: { id: view.formula } }, body: { from: version.version, body } })),
      "The next draft is open.",
    );
  const openDraft = view.versions.find((v) => v.state === "draft");

  return (
    <div ref={sheet} className="flex h-full flex-col px-6 pt-4 max-tablet:h-auto max-tablet:px-3">
      <Head
        title={view.name}
        sub={
          <>
            version <b className="text-ink">{version.version}</b>
            {version.from ? `, from ${version.from}` : ""}
            {view.parent ? ", a variant" : ""}
          </>
        }
        state={<State of={version.state} />}
      >
        <Link to={`/costs/${view.formula}/${version.version}`} className="btn-quiet inline-flex items-center">
          Cost
        </Link>
        <HistoryButton of="formula" id={view.formula} title={view.name} />
        {locked ? (
          <>
            {openDraft ? (
              <button type="button" className="btn-quiet" onClick={() => navigate(`/formulas/${view.formula}/${openDraft.version}`)}>
                Go to draft {openDraft.version}
              </button>
            ) : (
              <button type="button" className="btn-quiet" onClick={() => next()}>
                Edit as the next draft
              </button>
            )}
            <Link to={`/plan/${view.formula}/${version.version}?jars=${version.costing_jars}`} className="btn inline-flex items-center">
              Make a batch
            </Link>
          </>
        ) : (
          <>
            {version.from ? (
              <button type="button" className="btn-quiet" onClick={() => setTab("versions")}>
                Compare with {version.from}
              </button>
            ) : null}
            <button type="button" className="btn" onClick={() => setLocking(true)} disabled={draft.saver.open}>
              Lock version {version.version}
            </button>
          </>
        )}
      </Head>
      <Tabs.Root value={tab} onValueChange={setTab} className="flex min-h-0 flex-1 flex-col">
        <Tabs.List aria-label="Parts of the formula" className="mt-2 flex flex-wrap gap-x-5.5 border-b border-rule-strong text-body">
          {TABS.map(([v, text]) => (
            <Tabs.Trigger
              key={v}
              value={v}
              className="pt-1.5 pb-2 text-ink-2 data-[state=active]:font-semibold data-[state=active]:text-ink data-[state=active]:shadow-mark"
            >
              {text}
              {v === "versions" && <small className="ml-1">{view.versions.length}</small>}
              {v === "trials" && view.trials > 0 && <small className="ml-1">{view.trials}</small>}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {draft.saver.held.status === "refused" && problem?.fields.every((f) => !f.field.startsWith("lines[")) && (
          <p role="alert" className="mt-2 border-l-4 border-beet bg-beet-tint px-3 py-1 text-note text-beet">
            <b>{problem.title}</b> {besides(problem)} What you typed is kept here, not stored.
          </p>
        )}
        <Clash
          saver={draft.saver}
          words={(d) => sideOf(d, view, num)}
          instead={{
            code: "locked_meanwhile",
            title: "Locked meanwhile",
            button: "Put mine into the next draft",
            act: () => next(version),
          }}
        />
        <div className="flex min-h-0 flex-1 gap-5 pt-3.5 max-desk:gap-4 max-tablet:flex-col">
          <div className="relative mb-9 flex min-h-0 min-w-0 flex-1 flex-col">
            <Tabs.Content value="sheet" className="flex min-h-0 flex-1 flex-col" tabIndex={-1}>
              {view.recompute.length > 0 && <Recomputes list={view.recompute} version={version} edit={draft.edit} />}
              {view.problem && <p className="mb-2 border-l-4 border-beet pl-2 text-note text-beet">{view.problem}</p>}
              <Grid
                version={version}
                panel={view.panel}
                problem={problem}
                locked={locked}
                edit={draft.edit}
                footer={
                  locked ? (
                    `locked ${moment(view.versions.find((v) => v.version === version.version)?.locked_at ?? "")}`
                  ) : (
                    <>
                      <span data-rev={view.rev}>
                        {draft.saver.held.status === "stored"
                          ? draft.saver.held.savedAt
                            ? `saved ${clock(draft.saver.held.savedAt.toISOString())}`
                            : "saved"
                          : draft.saver.held.status === "saving"
                            ? "saving …"
                            : "not stored yet"}
                      </span>{" "}
                      &nbsp; Ctrl+Z undo &nbsp; ? keys
                    </>
                  )
                }
              />
            </Tabs.Content>
            <Tabs.Content value="pack" className="min-h-0 overflow-auto">
              <PackTab draft={draft} locked={locked} />
            </Tabs.Content>
            <Tabs.Content value="words" className="min-h-0 overflow-auto">
              <WordsTab draft={draft} locked={locked} />
            </Tabs.Content>
            <Tabs.Content value="trials" className="min-h-0 overflow-auto">
              <TrialsTab
                formula={view.formula}
                version={version}
                saving={draft.saver.open}
                onDraft={(next) => next.version.version === version.version && draft.adopt(next)}
              />
            </Tabs.Content>
            <Tabs.Content value="variants" className="min-h-0 overflow-auto">
              <VariantsTab formula={view.formula} />
            </Tabs.Content>
            <Tabs.Content value="versions" className="min-h-0 overflow-auto">
              <VersionsTab view={view} current={version.version} />
            </Tabs.Content>
          </div>
          {!WIDE.includes(tab) && (
            <div className="min-h-0 overflow-y-auto pr-1">
              <Panel panel={view.panel} version={version} effect={locked ? null : draft.effect} lastEdit={draft.lastEdit} />
            </div>
          )}
        </div>
      </Tabs.Root>
      {locking && (
        <LockList
          formula={view.formula}
          version={version.version}
          goTo={setTab}
          lock={async (confirmed) => {
            await lock(confirmed);
            setLocking(false);
          }}
          onClose={() => setLocking(false)}
        />
      )}
    </div>
  );
}

/** A place of a sheet that two people changed, in words: a line by its name, a weight with its unit. */
function sideOf(d: Difference, view: Sheet, num: (n: number, places?: number) => string): Side {
  const line = /^lines\[([^\]]+)\](?:\.(.+))?$/.exec(d.path);
  if (!line) return plainSide(d);
  const name = view.panel.lines.find((l) => l.id === line[1])?.name ?? "a line";
  const said = (x: unknown) => {
    if (line[2] === "grams" && typeof x === "number") return `${num(x, 1)} g`;
    if (!line[2]) return x === undefined ? "taken out" : `${num((x as { grams: number }).grams, 1)} g`;
    return valueWords(x);
  };
  const what = line[2] && line[2] !== "grams" ? `${name}, ${line[2].replaceAll("_", " ")}` : name;
  return { what, mine: said(d.mine), theirs: said(d.theirs) };
}
