import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useIngredients } from "../../api/queries/pantry";
import { Jar } from "../../parts/makeup";
import { Caution, Emphasised, PaperTag, Segmented } from "../../parts/marks";
import { PhAxis } from "../../parts/ph";
import { useFormats } from "../../parts/shop";
import { fixed } from "../../tongue/quantity";
import { say } from "../../tongue/words";
import type { Version } from "./useDraft";

type PanelData = Schemas["Panel"];
type Effect = Schemas["Effect"];

const STACK = [
  ["ingredients", "ingredients", "#1f3f93"],
  ["packaging", "jar, lid, label", "#5d7cc4"],
  ["labour", "hands", "#9fb3de"],
  ["overhead", "kitchen", "#cdd8ee"],
] as const;

/** A difference with its sign; nothing is never minus nothing. */
export function signed(n: number, places: number): string {
  const r = Number(n.toFixed(places));
  if (r === 0) return fixed(0, places);
  return r > 0 ? `+${fixed(r, places)}` : fixed(r, places).replace("-", "−");
}

/** What a jar costs more after a change; where a price is missing on either side nothing is saved and nothing added. */
export function moreWords(e: Pick<Schemas["Effect"], "per_jar" | "unpriced">): string {
  if (e.per_jar != null) return signed(e.per_jar, 3);
  return e.unpriced.length > 0
    ? `no price for ${e.unpriced.join(", ")}: no difference can be told`
    : "no difference can be told: a price is missing";
}

/** The same behind the last edit: nothing where nothing moved. */
const moreOf = (e: Effect): string => (e.per_jar != null && Math.abs(e.per_jar) < 0.0005 ? "" : `: ${moreWords(e)}`);

export function allergenWords(codes: string[]): string {
  return codes
    .map((c) => {
      const [base, kind] = c.split(":");
      if (kind === "species not named") return `${base}, kind not named`;
      if (base === "milk" || base === "egg") return kind ? `${kind} ${base}` : base;
      return (kind ?? base).replaceAll("_", " ");
    })
    .join(", ");
}

/** The allergens of a product in a cell: "at least" those known, while nobody has looked at all that is in it. */
export function allergensOf(x: { allergens: string[]; open: number }): string {
  const known = allergenWords(x.allergens);
  if (x.open === 0) return known || "none";
  return known ? `at least ${known}` : "not known yet";
}

/** What the maker says it keeps, beside what the rules allow: a claim, and never a storage life. */
function Claimed({ days, verdict }: { days: number; verdict: number | null }) {
  const longer = verdict == null || days > verdict;
  return (
    <p
      className={`-mt-0.5 border-l-4 px-2 py-1 text-note ${longer ? "border-mustard bg-mustard-tint text-mustard-ink" : "border-rule text-ink-2"}`}
    >
      You say it keeps <b>{days} days</b>
      {verdict == null
        ? "; the rules name no day for it yet."
        : longer
          ? `; the rules allow ${verdict}, and a reading decides.`
          : `, within the ${verdict} that the rules allow.`}
    </p>
  );
}

/** What stands beside the sheet: recomputed by the core on every edit. */
export function Panel({
  panel,
  version,
  effect,
  lastEdit,
}: {
  panel: PanelData;
  version: Version;
  effect: Effect | null;
  lastEdit: string;
}) {
  const { shop, money, num } = useFormats();
  const [regime, setRegime] = useState(shop.regime);
  const cost = panel.cost;
  const law = regime.toLowerCase();
  const declaration = panel.declaration[law];
  const verdict = panel.keeping[law];
  const moved = effect && (effect.allergens_gained.length > 0 || effect.allergens_lost.length > 0);
  const dangers = [
    ...(moved && effect
      ? [
          {
            title: "Allergens changed.",
            text: [
              effect.allergens_gained.length > 0 && `Now with ${allergenWords(effect.allergens_gained)}.`,
              effect.allergens_lost.length > 0 && `Now without ${allergenWords(effect.allergens_lost)}.`,
            ]
              .filter(Boolean)
              .join(" "),
          },
        ]
      : []),
    ...panel.cautions.filter((c) => c.level === "danger"),
  ];
  const changed = (moved: boolean) => (moved && effect ? "bg-cobalt-tint" : "");
  return (
    <aside aria-label="What it makes" className="flex w-88 shrink-0 flex-col gap-3 pb-3 max-desk:w-68 max-tablet:w-full">
      {dangers.length > 0 && (
        <section className="grid gap-2 border-l-6 border-beet bg-beet-tint px-3 py-2" aria-label="Dangers">
          {dangers.map((c) => (
            <p key={c.title} className="text-note leading-normal">
              <b className="text-body text-beet">{c.title}</b> {c.text}
            </p>
          ))}
        </section>
      )}
      <div className="flex items-end gap-4">
        <Jar makeUp={panel.make_up} size={120} />
        <div className="min-w-0 flex-1">
          <div className="figure leading-none font-semibold tracking-tight">
            {cost.at_least && <span className="mr-1 align-middle text-body font-semibold tracking-normal text-mustard-ink">at least</span>}
            {money(cost.per_jar)}
            <small className="ml-1.5 text-lead font-medium tracking-normal text-ink-2 max-desk:mt-1 max-desk:ml-0 max-desk:block max-desk:text-note max-tablet:ml-1.5 max-tablet:inline">
              a jar, {shop.currency}
            </small>
          </div>
          {effect && lastEdit && (
            <span
              className="mt-1.5 inline-block max-w-full truncate rounded-sm bg-cobalt-tint px-2 py-px text-note font-semibold text-cobalt"
              title={lastEdit}
            >
              {lastEdit}
              {moreOf(effect)}
            </span>
          )}
          <div className="mt-2 mb-1.5 flex h-3.5" role="img" aria-label="What a jar's cost is made of">
            {cost.per_jar > 0 &&
              STACK.map(([k, , color]) => <span key={k} style={{ width: `${(100 * cost[k]) / cost.per_jar}%`, background: color }} />)}
          </div>
          <dl className="grid grid-cols-[1fr_auto] text-note text-ink-2">
            {STACK.map(([k, name, color]) => (
              <div key={k} className="contents">
                <dt className="flex items-center gap-1.5">
                  <span aria-hidden className="size-2" style={{ background: color }} />
                  {k === "labour" && version.costing_jars > 0 ? `hands, ${say("jars", { count: version.costing_jars })}` : name}
                </dt>
                <dd className="text-right font-medium text-ink">{money(cost[k])}</dd>
              </div>
            ))}
          </dl>
          <p className="text-note text-ink-3">
            lost on the way {money(cost.losses)} of it; ingredients {money(cost.per_kg_ingredients)} a kg.{" "}
            <Link to={`/costs/${version.formula}/${version.version}`} className="font-semibold text-cobalt hover:underline">
              Every figure
            </Link>
          </p>
        </div>
      </div>
      {cost.at_least && (
        <Caution level="needs_you" title="Cost is “at least”.">
          {cost.missing.length > 0 && (
            <>
              No price for <Unpriced names={cost.missing} />.{" "}
            </>
          )}
          {cost.unsaid.length > 0 && `Nothing is said of ${cost.unsaid.join(", ")}.`}
        </Caution>
      )}
      <section>
        <h2 className="mb-1 flex items-baseline justify-between text-body font-semibold">
          Acidity{" "}
          <small className="text-note font-normal text-ink-2">estimate, not a reading{panel.ph.incomplete ? ", incomplete" : ""}</small>
        </h2>
        {panel.ph.no_water ? (
          <p className="text-note text-ink-2">No water phase: there is no pH to estimate.</p>
        ) : (
          <PhAxis low={panel.ph.low} high={panel.ph.high} target={version.ph_target} limit={version.ph_limit} />
        )}
      </section>
      <dl className="grid grid-cols-4 border-y border-rule py-1.5 text-note leading-tight text-ink-2">
        <Fact
          label="water activity"
          value={panel.water_activity == null ? "—" : num(panel.water_activity, 3)}
          mark={changed(!!effect?.water_activity)}
        />
        <Fact
          label="salt in water"
          value={`${num(panel.salt_in_water_percent, 1)} %`}
          mark={changed(Math.abs(effect?.salt_in_water_percent ?? 0) > 0.005)}
        />
        <Fact
          label="acetic in water"
          value={`${num(panel.acetic_in_water_percent, 1)} %`}
          mark={changed(Math.abs(effect?.acetic_in_water_percent ?? 0) > 0.005)}
        />
        {panel.oil_to_sour != null ? (
          <Fact
            label={panel.oil_to_sour_by_weight == null ? "oil to sour" : `oil to sour, ${num(panel.oil_to_sour_by_weight, 1)} by weight`}
            value={`${num(panel.oil_to_sour, 1)} : 1`}
          />
        ) : (
          <Fact label="acids in water" value={`${num(panel.titratable_in_water_percent, 1)} %`} />
        )}
      </dl>
      <p className="-mt-1.5 text-note text-ink-2">
        Preservation index {panel.preservation_index == null ? "—" : num(panel.preservation_index, 0)} of 63, an indicator, never
        permission. Kept {verdict.condition}
        {verdict.days != null && `, ${verdict.days} days provisionally`}.
      </p>
      {(version.claim_days ?? 0) > 0 && <Claimed days={version.claim_days ?? 0} verdict={verdict.days ?? null} />}
      <section>
        <h2 className="mb-2 flex items-baseline justify-between text-body font-semibold">
          On the label
          <Segmented label="Label law" value={regime} onChange={setRegime} options={shop.laws.map((l) => [l.regime, l.title] as const)} />
        </h2>
        <div className={changed(!!effect?.declaration_changed)}>
          <PaperTag>
            <p className="mb-1">
              {declaration.list ? (
                <Emphasised text={declaration.list} />
              ) : (
                <span className="text-ink-3">The ingredient list writes itself as lines get grams.</span>
              )}
            </p>
            {declaration.contains && <p className="font-bold">{declaration.contains}</p>}
            {declaration.list && panel.open.length === 0 && declaration.allergens.length === 0 && (
              <p className="text-ink-2">No allergens of this regime: every ingredient was looked at.</p>
            )}
            {declaration.list && (panel.open.length > 0 || (!declaration.contains && declaration.allergens.length > 0)) && (
              <p className="text-note text-ink-2">
                Allergens: {panel.open.length > 0 && <b className="text-mustard-ink">at least </b>}
                {declaration.allergens.length > 0 ? allergenWords(declaration.allergens) : "none that is known"}.
              </p>
            )}
          </PaperTag>
        </div>
      </section>
      {panel.open.length > 0 && (
        <Caution level="needs_you" title="Not looked at:">
          {panel.open.map((o, i) => (
            <span key={o.ingredient}>
              {i > 0 && ", "}
              <Link className="font-semibold text-cobalt underline" to={`/pantry/${o.ingredient}?look=1`}>
                {o.name}
              </Link>
            </span>
          ))}
          . Until somebody reads the packet the allergens are “at least”, and the version cannot be locked.
        </Caution>
      )}
      {panel.resolutions.length > 0 && (
        <section>
          <h2 className="mb-1 text-body font-semibold">Any of the group</h2>
          <ul className="text-note">
            {panel.resolutions.map((r) => {
              const list = r.allergens[law] ?? [];
              return (
                <li key={r.used.join()} className="flex justify-between gap-3 border-b border-rule-soft py-0.5">
                  <span className="truncate">{r.used.join(", ")}</span>
                  <span className="shrink-0 text-ink-2">
                    {r.ph.low != null && r.ph.high != null && `pH ${fixed(r.ph.low, 2)} to ${fixed(r.ph.high, 2)}`}
                    {list.length > 0 && `, ${allergenWords(list)}`}
                  </span>
                </li>
              );
            })}
          </ul>
          <p className="mt-1 text-note text-ink-2">
            The band above spans them all. The list shows the first; a batch's label lists what was used.
          </p>
        </section>
      )}
      {panel.cautions
        .filter((c) => c.level !== "danger")
        .map((c) => (
          <Caution key={c.title} level={c.level} title={c.title}>
            {c.text}
          </Caution>
        ))}
    </aside>
  );
}

/** Names without a price, each the way to its page. */
export function Unpriced({ names }: { names: string[] }) {
  const pantry = useIngredients();
  return names.map((name, i) => {
    const g = pantry.data?.find((x) => name === x.name || name.startsWith(`${x.name} (`));
    return (
      <span key={name}>
        {i > 0 && "; "}
        {g ? (
          <Link className="font-semibold text-cobalt underline" to={`/pantry/${g.id}`}>
            {name}
          </Link>
        ) : (
          name
        )}
      </span>
    );
  });
}

function Fact({ label, value, mark = "" }: { label: string; value: string; mark?: string }) {
  return (
    <div className={`flex flex-col-reverse rounded-sm px-0.5 ${mark}`}>
      <dt>{label}</dt>
      <dd className="text-lead font-semibold text-ink">{value}</dd>
    </div>
  );
}
