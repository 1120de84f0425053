import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, problemOf, type Schemas, take } from "../../api/client";
import { useFamily, useRebase, useSideBySide } from "../../api/queries/formulas";
import { refreshAll } from "../../api/queries/keys";
import { Modal } from "../../parts/form";
import { MakeUpBar, MakeUpLegend } from "../../parts/makeup";
import { Caution, Emphasised, Failed, Loading, State } from "../../parts/marks";
import { PhAxis } from "../../parts/ph";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { NameDialog } from "./NameDialog";
import { allergensOf, allergenWords, moreWords, signed } from "./Panel";

type FamilyData = Schemas["Family"];
type Side = Schemas["SideView"];
type Glance = Schemas["Glance"];
type Ref = Schemas["VersionRef"];

/** A parent and its variants in parallel, what differs marked. */
export function VariantsTab({ formula }: { formula: string }) {
  const q = useFamily(formula);
  if (q.isPending) return <Loading what="the family" />;
  if (q.isError) return <Failed message={problemOf(q.error).title} again={() => q.refetch()} />;
  return <FamilyView key={q.data.variants.map((v) => `${v.formula}${v.version}`).join()} formula={formula} family={q.data} />;
}

function FamilyView({ formula, family }: { formula: string; family: FamilyData }) {
  const { parent, variants } = family;
  const members: Glance[] = [...(parent ? [parent] : []), ...variants];
  const mine = variants.find((v) => v.formula === formula);
  const first: Ref[] = [];
  if (parent) first.push({ formula: parent.formula, version: parent.version });
  for (const v of [mine, ...variants])
    if (v && first.length < 3 && !first.some((r) => r.formula === v.formula)) first.push({ formula: v.formula, version: v.version });
  const [shown, setShown] = useState<Ref[]>(first);
  const [naming, setNaming] = useState(false);
  const [rebasing, setRebasing] = useState<string | null>(null);
  const has = (m: Glance) => shown.some((r) => r.formula === m.formula);
  const side = useSideBySide(shown);
  if (!parent)
    return (
      <p className="max-w-xl text-body text-ink-2">
        A variant is stated against a locked version: thicker, thinner, with another nut, without sugar. Lock a version first; then start
        one here, and both stand side by side.
      </p>
    );
  return (
    <div className="pb-8">
      <div className="flex flex-wrap items-center gap-2">
        {members.map((m) => (
          <button
            key={m.formula}
            type="button"
            aria-pressed={has(m)}
            disabled={!has(m) && shown.length >= 3}
            onClick={() =>
              setShown(has(m) ? shown.filter((r) => r.formula !== m.formula) : [...shown, { formula: m.formula, version: m.version }])
            }
            className={`min-h-8 rounded-sm border-2 px-3 text-body disabled:opacity-50 ${has(m) ? "border-cobalt bg-cobalt-tint font-semibold text-cobalt" : "border-rule-strong bg-white"}`}
          >
            {m.name}
          </button>
        ))}
        <span className="text-note text-ink-2">up to three side by side</span>
        <button type="button" className="btn-line ml-auto" onClick={() => setNaming(true)}>
          Start a variant
        </button>
      </div>
      {variants
        .filter((v) => v.parent_newer > 0)
        .map((v) => (
          <div key={v.formula} className="mt-3">
            <Caution level="needs_you" title={`${parent.name} has moved on.`}>
              {v.name} is stated against version {v.parent?.version}; version {v.parent_newer} is locked now.{" "}
              <button type="button" className="min-h-6 font-semibold text-cobalt hover:underline" onClick={() => setRebasing(v.formula)}>
                Show what carrying it over would change
              </button>
            </Caution>
          </div>
        ))}
      {side.isError && <p className="mt-2 font-semibold text-beet">{problemOf(side.error).title}</p>}
      {side.data && <SideBySide side={side.data} variants={variants} />}
      {naming && <NameVariant parent={parent} onClose={() => setNaming(false)} />}
      {rebasing && <Rebase formula={rebasing} onClose={() => setRebasing(null)} />}
    </div>
  );
}

function SideBySide({ side, variants }: { side: Side; variants: FamilyData["variants"] }) {
  const { num, money, shop } = useFormats();
  const cols = side.columns;
  const first = cols[0];
  const grid = { gridTemplateColumns: `minmax(170px, 1fr) repeat(${cols.length}, minmax(0, ${cols.length > 2 ? 1.25 : 1.5}fr))` };
  return (
    <section className="sheet mt-3" aria-label="Side by side">
      <div className="grid" style={grid}>
        <Cell />
        {cols.map((c) => (
          <Cell key={c.formula + c.version}>
            <Link
              to={`/formulas/${c.formula}/${c.version}`}
              className="block truncate font-title text-title leading-tight font-semibold hover:text-cobalt"
              title={c.name}
            >
              {c.name}
            </Link>
            <span className="mt-1 flex items-center gap-2 text-note text-ink-2">
              version {c.version} <State of={c.state} />
            </span>
          </Cell>
        ))}
        <Name>made of</Name>
        {cols.map((c) => (
          <Cell key={c.formula + c.version}>
            <MakeUpBar makeUp={c.make_up} scale={cols.length > 2 ? 2.2 : 2.8} height={18} max={290} />
          </Cell>
        ))}
        <Name>a jar, {shop.currency}</Name>
        {cols.map((c, i) => (
          <Cell key={c.formula + c.version} mark={i > 0 && Math.abs(c.per_jar - first.per_jar) >= 0.005}>
            {c.at_least && <span className="mr-1 text-note text-mustard-ink">at least</span>}
            <b className="text-title font-semibold">{money(c.per_jar)}</b>
            {i > 0 && <Off by={c.per_jar - first.per_jar} places={2} />}
          </Cell>
        ))}
        <Name>pH, estimate</Name>
        {cols.map((c) => (
          <Cell key={c.formula + c.version}>
            {c.ph.no_water ? (
              "no water phase"
            ) : (
              <PhAxis low={c.ph.low} high={c.ph.high} target={c.ph_target} limit={c.ph_limit} width={cols.length > 2 ? 236 : 320} />
            )}
          </Cell>
        ))}
        <Name>salt in water</Name>
        {cols.map((c, i) => (
          <Cell key={c.formula + c.version} mark={i > 0 && Math.abs(c.salt_in_water_percent - first.salt_in_water_percent) >= 0.05}>
            {num(c.salt_in_water_percent, 1)}
            <span className="unit">%</span>
            {i > 0 && <Off by={c.salt_in_water_percent - first.salt_in_water_percent} places={1} />}
          </Cell>
        ))}
        <Name>allergens, {shop.regime}</Name>
        {cols.map((c, i) => (
          <Cell key={c.formula + c.version} mark={i > 0 && allergensOf(c) !== allergensOf(first)}>
            {allergensOf(c)}
          </Cell>
        ))}
        <Name>kept, provisionally</Name>
        {cols.map((c, i) => (
          <Cell key={c.formula + c.version} mark={i > 0 && c.keeping !== first.keeping}>
            {c.keeping}
          </Cell>
        ))}
        <Name>nothing speaks against</Name>
        {cols.map((c, i) => (
          <Cell key={c.formula + c.version} mark={i > 0 && c.claims.join() !== first.claims.join()}>
            {c.claims.join(", ") || "nothing"}
          </Cell>
        ))}
        <div className="phase col-span-full border-b border-rule bg-paper-foot py-1 pl-4 text-body">Into the bowl</div>
        {side.rows.map((r, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
          <Row key={i} row={r} />
        ))}
        <Name>settings of its own</Name>
        {cols.map((c) => {
          const own = variants.find((v) => v.formula === c.formula)?.settings ?? [];
          return (
            <Cell key={c.formula + c.version} mark={own.length > 0}>
              <span className="text-note">{own.map((f) => `${f.field} ${f.after || "none"}`).join("; ") || "–"}</span>
            </Cell>
          );
        })}
        <Name>in all</Name>
        {cols.map((c) => (
          <Cell key={c.formula + c.version}>
            <b className="text-lead">
              {num(c.grams, 1)}
              <span className="unit">g</span>
            </b>
          </Cell>
        ))}
        <Name>declared, {shop.regime}</Name>
        {cols.map((c, i) => (
          <Cell key={c.formula + c.version} mark={i > 0 && c.declaration !== first.declaration}>
            <span className="text-note leading-normal">
              <Emphasised text={c.declaration} />
            </span>
          </Cell>
        ))}
      </div>
      <div className="px-4 py-2">
        <MakeUpLegend />
      </div>
    </section>
  );
}

function Row({ row }: { row: Schemas["SideBySide"] }) {
  const { num } = useFormats();
  const first = row.cells[0];
  return (
    <>
      <div className={`truncate border-b border-rule-soft py-2 pl-4 text-body ${row.differs ? "font-semibold" : ""}`} title={row.name}>
        {row.name}
      </div>
      {row.cells.map((c, i) => {
        const differs = i > 0 && (c.there !== first.there || c.name !== first.name || c.grams !== first.grams);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: columns have no identity but their place
          <Cell key={i} mark={differs}>
            {c.there ? (
              <span className="flex items-baseline gap-2">
                <span className={`inline-block w-18.5 text-right text-lead ${differs ? "font-semibold" : ""}`}>
                  {num(c.grams, 1)}
                  <span className="unit">g</span>
                </span>
                <span className="inline-block w-14.5 text-right text-ink-2">
                  {num(c.percent, 2)}
                  <span className="unit">%</span>
                </span>
                {differs && first.there && c.name === first.name && <Off by={c.grams - first.grams} places={1} />}
                {differs && (!first.there || c.name !== first.name) && (
                  <span className="truncate text-note font-semibold text-cobalt">{c.name === row.name ? "added" : c.name}</span>
                )}
              </span>
            ) : (
              <span className={`text-note ${differs ? "font-semibold text-cobalt" : "text-ink-3"}`}>not in it</span>
            )}
          </Cell>
        );
      })}
    </>
  );
}

function Off({ by, places }: { by: number; places: number }) {
  const words = signed(by, places);
  return Number(by.toFixed(places)) === 0 ? null : <span className="ml-2 text-note font-semibold text-cobalt">{words}</span>;
}

function Name({ children }: { children: ReactNode }) {
  return <div className="border-b border-rule-soft py-2 pl-4 text-note text-ink-3">{children}</div>;
}

/** What differs from the first column stands on a tint with a bar at its left. */
function Cell({ children, mark }: { children?: ReactNode; mark?: boolean }) {
  return <div className={`min-w-0 border-b border-rule-soft py-2 pr-3 pl-3 ${mark ? "bg-cobalt-tint shadow-edge" : ""}`}>{children}</div>;
}

function NameVariant({ parent, onClose }: { parent: Glance; onClose: () => void }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  return (
    <NameDialog
      title={`A variant of ${parent.name}, version ${parent.version}`}
      placeholder={`${parent.name}, thicker`}
      button="Open the variant"
      start={async (name) => {
        const sheet = await take(
          api.POST("/formulas/{id}/variants", { params: { path: { id: parent.formula } }, body: { version: parent.version, name } }),
        );
        await refreshAll(client);
        toast("The variant is open. Change what differs; the rest follows its parent.");
        navigate(`/formulas/${sheet.formula}/1`);
      }}
      onClose={onClose}
    />
  );
}

function Rebase({ formula, onClose }: { formula: string; onClose: () => void }) {
  const { num } = useFormats();
  const client = useQueryClient();
  const navigate = useNavigate();
  const q = useRebase(formula);
  const apply = async () => {
    try {
      const done = await take(api.POST("/formulas/{id}/rebase", { params: { path: { id: formula } }, body: { apply: true } }));
      await refreshAll(client);
      toast(`It stands on version ${done.to.version} of its parent now.`);
      if (done.sheet) navigate(`/formulas/${formula}/${done.sheet.version.version}`);
      onClose();
    } catch (e) {
      toast.error(problemOf(e).title);
    }
  };
  const moved = q.data?.comparison.lines.filter((l) => l.kind !== "same") ?? [];
  return (
    <Modal open onClose={onClose} title="Carry it over to its parent's newest version" width={620}>
      {q.isPending && <p className="text-ink-2">Working it out …</p>}
      {q.isError && <p className="font-semibold text-beet">{problemOf(q.error).title}</p>}
      {q.data && (
        <>
          <p className="mb-2 text-note text-ink-2">
            From version {q.data.from.version} to {q.data.to.version}. What the variant left alone follows its parent; what it changed stays
            its own.
          </p>
          <table className="ledger w-full">
            <tbody>
              {moved.map((l) => (
                <tr key={l.name + l.kind}>
                  <td>{l.name}</td>
                  <td className="num text-ink-2">{l.kind === "added" ? "–" : `${num(l.grams_before, 1)} g`}</td>
                  <td className="num font-semibold">{l.kind === "removed" ? "taken out" : `${num(l.grams_after, 1)} g`}</td>
                </tr>
              ))}
              {q.data.comparison.fields.map((f) => (
                <tr key={f.field}>
                  <td>{f.field}</td>
                  <td className="num text-ink-2">{f.before}</td>
                  <td className="num font-semibold">{f.after}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {moved.length + q.data.comparison.fields.length === 0 && <p>Nothing changes but the version it stands on.</p>}
          {q.data.conflicts.length > 0 && (
            <div className="mt-3">
              <Caution level="needs_you" title="Both changed these; the variant's own is kept.">
                <ul>
                  {q.data.conflicts.map((c) => (
                    <li key={c.where}>
                      {c.name}: {c.base}, its parent now {c.parent}, here {c.variant}
                    </li>
                  ))}
                </ul>
              </Caution>
            </div>
          )}
          <p className="mt-2 text-note text-ink-2">
            A jar {moreWords(q.data.effect)}
            {q.data.effect.ph != null && <>, pH {signed(q.data.effect.ph, 2)}</>}
            {q.data.effect.allergens_gained.length > 0 && (
              <b className="text-beet">, now with {allergenWords(q.data.effect.allergens_gained)}</b>
            )}
            {q.data.effect.allergens_lost.length > 0 && <b>, now without {allergenWords(q.data.effect.allergens_lost)}</b>}
          </p>
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn-quiet" onClick={onClose}>
              Leave it as it is
            </button>
            <button type="button" className="btn" onClick={apply}>
              Carry it over
            </button>
          </div>
        </>
      )}
    </Modal>
  );
}
