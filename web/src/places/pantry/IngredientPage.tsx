import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, fieldMessage, problemOf, type Schemas, take } from "../../api/client";
import { refreshIngredient, useIngredient } from "../../api/queries/pantry";
import { MakeUpBar, MakeUpKey } from "../../parts/makeup";
import { Failed, Loading } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { Clash, plainSide } from "../../saving/Clash";
import { useAutosave } from "../../saving/useAutosave";
import { LookedAt } from "../allergens/LookedAt";
import { HistoryButton } from "../history/History";
import { OnTheShelf } from "../lots/OnTheShelf";
import { stepWords } from "../preparations/ways";
import { Block } from "./Block";
import { Acidity, Flags, MadeOf } from "./figures";
import { Codes, Typed } from "./ingredientFields";
import { Measures } from "./Measures";
import { Offers } from "./Offers";
import { OnTheLabel } from "./OnTheLabel";

type View = Schemas["IngredientView"];
type Ingredient = Schemas["Ingredient"];

export function IngredientPage({ id }: { id: string }) {
  const q = useIngredient(id);
  if (q.isPending) return <Loading what="the ingredient" />;
  if (q.isError) return <Failed message={problemOf(q.error).title} again={() => q.refetch()} />;
  return <Page view={q.data} />;
}

/** Refusals that a reason answers: an allergen or a flag of hazard is lost, or what carries one gets another name. */
const ASKS_WHY = ["loses", "renames", "leaps"];

interface Kept {
  ingredient: Ingredient;
  retired: boolean;
}

/** Strips what the server adds to the ingredient itself. */
function plain(v: View): Ingredient {
  const {
    rev: _r,
    retired: _t,
    make_up: _m,
    cost: _c,
    cost_problem: _p,
    offers_told: _f,
    known_piece_g: _n,
    cost_arithmetic: _h,
    used_in: _u,
    parsed_list: _l,
    updated_at: _a,
    updated_by: _b,
    measures: _s,
    preparations: _q,
    known_as: _k,
    open: _o,
    asks: _w,
    carries: _e,
    inherited: _i,
    ...rest
  } = v;
  return rest;
}

/** The same cost by the litre and by the piece, where these are known. */
function Besides({ perGram, density, piece }: { perGram: number; density?: number; piece: number }) {
  const { money, shop } = useFormats();
  const said = [
    density ? `${money(perGram * density * 1000)} ${shop.currency} for 1 L` : "",
    piece > 0 ? `${money(perGram * piece)} ${shop.currency} a piece` : "",
  ].filter(Boolean);
  if (said.length === 0) return null;
  return <small className="ml-3 text-note font-normal text-ink-2">{said.join(", ")}</small>;
}

function Page({ view }: { view: View }) {
  const { money, num, day, moment, shop } = useFormats();
  const client = useQueryClient();
  const [retiring, setRetiring] = useState(false);
  const saver = useAutosave<Kept, View>(`ingredient ${view.id}`, view, {
    what: view.name,
    link: `/pantry/${view.id}`,
    bodyOf: (v) => ({ ingredient: plain(v), retired: v.retired }),
    revOf: (v) => v.rev,
    send: ({ ingredient, retired }, rev, why) =>
      take(api.PUT("/ingredients/{id}", { params: { path: { id: view.id }, query: { rev, retired, why } }, body: ingredient })),
    stored: (v) => void refreshIngredient(client, v),
    asks: ASKS_WHY,
  });
  const { view: shown, value, status } = saver.held;
  const draft = value.ingredient;
  const pack = draft.role === "packaging";
  const problem = status === "refused" ? saver.held.problem : null;
  const losing = status === "asks" ? saver.held.problem : null;
  const set = (change: Partial<Ingredient>) =>
    saver.put({ ...saver.held.value, ingredient: { ...saver.held.value.ingredient, ...change } });
  const edited = { draft, problem, set };
  const general =
    problem && problem.fields.length === 0
      ? problem.title
      : fieldMessage(problem, "composition") && !problem?.fields.some((f) => f.field.includes("."))
        ? fieldMessage(problem, "composition")
        : "";
  return (
    <article className="pb-6">
      <header className="flex items-start justify-between gap-4">
        <div className="min-w-0">
          <h2 className="truncate font-title text-title leading-tight font-semibold">{shown.name}</h2>
          <p className="mt-1 text-note text-ink-2">
            {shown.typical ? (
              <>
                <span aria-hidden className="hatch mr-1.5 inline-block h-2.75 w-5 border border-cobalt align-baseline" />
                Typical values, not your supplier's.{" "}
                <button type="button" className="min-h-6 font-semibold text-cobalt" onClick={() => set({ typical: false })}>
                  These are my supplier's now
                </button>
              </>
            ) : (
              "Your supplier's values"
            )}
            , {shown.updated_by}, {moment(shown.updated_at)}
          </p>
        </div>
        <div className="flex shrink-0">
          <HistoryButton of="ingredient" id={shown.id} title={shown.name} />
          <button
            type="button"
            className="btn-quiet"
            onClick={() => (shown.retired ? saver.put({ ...value, retired: false }) : setRetiring(true))}
          >
            {shown.retired ? "Bring back" : "Retire"}
          </button>
          <WhyDialog
            open={retiring}
            title={`Retire ${shown.name}`}
            text="It is offered no more; formulas that use it keep it."
            button="Retire it"
            act={(why) => saver.because(why, { ...saver.held.value, retired: true })}
            onClose={() => setRetiring(false)}
          />
        </div>
      </header>
      {!pack && (
        <>
          <LookedAt
            view={shown}
            adopt={(v) => {
              saver.incoming(v);
              void refreshIngredient(client, v);
            }}
          />
          <div className="mt-3">
            <MakeUpBar makeUp={shown.make_up} scale={6.6} height={22} max={660} />
            <MakeUpKey makeUp={shown.make_up} />
          </div>
        </>
      )}
      {general && (
        <p role="alert" className="mt-2 border-l-4 border-beet bg-beet-tint px-3 py-1 text-note font-semibold text-beet">
          {general} What you typed is kept here, not stored.
        </p>
      )}
      <div className="mt-4 grid grid-cols-[minmax(0,1fr)_196px] gap-5 max-desk:grid-cols-1">
        <Block title={pack ? "What a piece costs" : "What a usable gram costs"}>
          {shown.cost ? (
            <>
              <p className="text-display leading-none font-semibold">
                {pack ? money(shown.cost.per_gram, 4) : money(shown.cost.per_gram * 1000)}
                <small className="ml-2 text-body font-medium text-ink-2">
                  {shop.currency} {pack ? "a piece" : "a usable kg"}
                </small>
                {!pack && (
                  <Besides perGram={shown.cost.per_gram} density={draft.density_g_ml} piece={draft.piece_grams || shown.known_piece_g} />
                )}
              </p>
              <p className="mt-1 text-note text-ink-2">
                {pack ? "A piece" : `${money(shown.cost.per_gram, 5)} a gram`} = {shown.cost_arithmetic}
                {shown.cost.offer.supplier && `; ${shown.cost.offer.supplier}, ${day(shown.cost.offer.date, true)}`}
                {shown.cost.stale && <b className="text-mustard-ink">, {shown.cost.age_days} days old</b>}
              </p>
            </>
          ) : (
            <p className="font-semibold text-mustard-ink">{shown.cost_problem}</p>
          )}
          <Offers view={shown} offers={draft.offers} problem={problem} onSave={(offers) => set({ offers })} />
          <div className={`mt-3 grid grid-cols-3 gap-3 ${pack ? "hidden" : ""}`}>
            <NumberField
              late
              label="Usable"
              unit="% of what is bought"
              value={draft.usable_percent || 100}
              error={fieldMessage(problem, "usable_percent")}
              onValue={(n) => set({ usable_percent: n ?? 0 })}
            />
            <NumberField
              late
              label="Density"
              unit="g/mL"
              reason={[0, 1.6]}
              allowEmpty
              value={draft.density_g_ml || null}
              error={fieldMessage(problem, "density_g_ml")}
              onValue={(n) => set({ density_g_ml: n ?? 0 })}
            />
            <NumberField
              late
              label="One piece"
              unit="g"
              reason={[0, 5000]}
              allowEmpty
              value={draft.piece_grams || null}
              placeholder={shown.known_piece_g > 0 ? num(shown.known_piece_g, 0) : undefined}
              hint={!draft.piece_grams && shown.known_piece_g > 0 ? `${num(shown.known_piece_g, 0)} g by its measures` : undefined}
              error={fieldMessage(problem, "piece_grams")}
              onValue={(n) => set({ piece_grams: n ?? 0 })}
            />
          </div>
        </Block>
        <Block title="In products">
          {shown.used_in.length === 0 && <p className="text-note text-ink-2">In none yet.</p>}
          <ul className="grid gap-1 text-note">
            {shown.used_in.toReversed().map((u) => (
              <li key={`${u.formula}${u.version}`} className="min-w-0">
                <Link to={`/formulas/${u.formula}/${u.version}`} className="block truncate font-semibold text-cobalt hover:underline">
                  {u.name} {u.version}
                </Link>
                <span className="text-ink-2">
                  {pack ? "part of the pack" : `${num(u.grams, 1)} g`}
                  {u.state === "draft" ? ", draft" : ""}
                </span>
              </li>
            ))}
          </ul>
        </Block>
      </div>
      {!pack && (
        <>
          <Block title="On the shelf">
            <OnTheShelf id={view.id} />
          </Block>
          <div className="grid grid-cols-2 gap-5 max-desk:grid-cols-1">
            <Measures view={view} />
            <Block title="Made from, made into">
              {shown.preparations.length === 0 && <p className="text-note text-ink-2">No kitchen step of it is known.</p>}
              <ul className="grid gap-1 text-body">
                {shown.preparations.map((p) => (
                  <li key={p.id}>
                    <Link to={`/preparations/${encodeURIComponent(p.id)}`} className="font-semibold text-cobalt hover:underline">
                      {p.input === view.id ? `${stepWords(p.name)}: gives ${p.output_name}` : `from ${p.input_name}, ${stepWords(p.name)}`}
                    </Link>{" "}
                    <span className="text-ink-2">
                      {num(p.co_output === view.id ? p.expected.co_percent : p.expected.percent, 0)} %
                      {p.preferred && ", the way you make it"}
                    </span>
                  </li>
                ))}
              </ul>
              <Codes
                label="What people call it, for the reader"
                hint={shown.known_as.length > 0 ? `known already: ${shown.known_as.join("; ")}` : "other names, comma between"}
                value={draft.synonyms ?? []}
                error={fieldMessage(problem, "synonyms")}
                onSave={(synonyms) => set({ synonyms })}
              />
            </Block>
          </div>
          <OnTheLabel view={shown} {...edited} />
          <MadeOf {...edited} />
          <Acidity {...edited} />
          <Flags draft={draft} set={set} />
        </>
      )}
      <Block title={pack ? "Its name, and a note" : "Note"}>
        <div className="grid grid-cols-2 gap-3">
          {pack && <Typed of="name" label="Name in the pantry" view={shown} {...edited} />}
          <Typed of="note" label="Note" view={shown} {...edited} />
        </div>
      </Block>
      <WhyDialog
        open={!!losing}
        title={
          losing?.code === "renames" ? "It gets another name" : losing?.code === "leaps" ? "The price leaps" : "Something is taken off"
        }
        text={losing?.title}
        button={losing?.code === "renames" ? "Call it so" : losing?.code === "leaps" ? "It is right" : "Take it off"}
        act={(why) => saver.because(why)}
        onClose={saver.letGo}
      />
      <Clash saver={saver} words={plainSide} />
    </article>
  );
}
