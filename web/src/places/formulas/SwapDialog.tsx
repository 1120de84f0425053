import { useState } from "react";
import { problemOf, type Schemas } from "../../api/client";
import { useSwap } from "../../api/queries/formulas";
import { ChooseIngredient } from "../../parts/choose";
import { Modal } from "../../parts/form";
import { MakeUpBar } from "../../parts/makeup";
import { Caution, Emphasised, Segmented } from "../../parts/marks";
import { PhAxis } from "../../parts/ph";
import { useFormats } from "../../parts/shop";
import { allergensOf, allergenWords, moreWords } from "./Panel";
import type { Line, Version } from "./useDraft";

type Glance = Schemas["Glance"];

/** Another ingredient in a line's place: before and after, then taken or let go. */
export function SwapDialog({
  version,
  line,
  name,
  onClose,
  onApply,
}: {
  version: Version;
  line: Line;
  name: string;
  onClose: () => void;
  onApply: (next: Version, what: string) => void;
}) {
  const { num } = useFormats();
  const [to, setTo] = useState<{ id: string; name: string } | null>(null);
  const [keep, setKeep] = useState<"grams" | "salt" | "acid">("grams");
  const q = useSwap(version, line.id, to?.id, keep);
  const problem = q.error ? problemOf(q.error) : null;
  const d = q.data;
  return (
    <Modal open onClose={onClose} title={`Swap ${name}`} width={860}>
      <div className="flex flex-wrap items-center gap-4">
        <ChooseIngredient
          label="for what?"
          className="btn-line min-w-56 text-left"
          without={[line.ingredient ?? ""]}
          onChoose={(id, n) => setTo({ id, name: n })}
        >
          for {to ? <b>{to.name}</b> : "… choose from the pantry"}
        </ChooseIngredient>
        <span className="flex items-center gap-2 text-note text-ink-2">
          keeping
          <Segmented
            label="What stays the same"
            value={keep}
            onChange={setKeep}
            options={
              [
                ["grams", "the grams"],
                ["salt", "the salt"],
                ["acid", "the acid"],
              ] as const
            }
          />
        </span>
        {d && (
          <b className="text-lead">
            {num(d.grams_before, 1)} g → {num(d.grams_after, 1)} g
          </b>
        )}
      </div>
      {problem && (
        <p role="alert" className="mt-3 text-note font-semibold text-beet">
          {problem.fields[0]?.message ?? problem.title}
        </p>
      )}
      {!to && <p className="mt-4 text-body text-ink-2">Choose what comes in its place; nothing changes until you take it.</p>}
      {d && (
        <>
          <div className="mt-4 grid grid-cols-2 gap-6">
            <Column title={`before, with ${d.from}`} g={d.before} />
            <Column title={`after, with ${d.to}`} g={d.after} effect={d.effect} />
          </div>
          <div className="mt-3 grid gap-2">
            {d.effect.allergens_gained.length > 0 && (
              <Caution level="danger" title={`Allergen gained: ${allergenWords(d.effect.allergens_gained)}.`}>
                Labels in stock would be wrong.
              </Caution>
            )}
            {d.effect.allergens_lost.length > 0 && (
              <Caution level="good" title={`Allergen lost: ${allergenWords(d.effect.allergens_lost)}.`} />
            )}
            {d.claims_lost.length > 0 && <Caution level="needs_you" title={`No longer: ${d.claims_lost.join(", ")}.`} />}
            {d.claims_gained.length > 0 && (
              <Caution level="good" title={`Nothing in it speaks any more against: ${d.claims_gained.join(", ")}.`}>
                Whether you may say so is for your local rules.
              </Caution>
            )}
            {d.purpose_lost && (
              <Caution level="needs_you" title={`${d.from} ${d.purpose_lost}.`}>
                See that {d.to} does that too.
              </Caution>
            )}
            {d.spoons && (
              <Caution level="needs_you" title="Spoons differ.">
                {d.spoons}
              </Caution>
            )}
          </div>
        </>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn-quiet" onClick={onClose}>
          Let it go
        </button>
        <button
          type="button"
          className="btn"
          disabled={!d || !!problem}
          onClick={() => {
            if (d) onApply(d.version, `${d.from} swapped for ${d.to}`);
          }}
        >
          Take it
        </button>
      </div>
    </Modal>
  );
}

function Column({ title, g, effect }: { title: string; g: Glance; effect?: Schemas["Effect"] }) {
  const { num, money, shop } = useFormats();
  return (
    <section className="min-w-0">
      <h3 className="phase mb-1 truncate text-body">{title}</h3>
      <MakeUpBar makeUp={g.make_up} scale={3.8} height={18} max={390} />
      <p className="mt-2">
        <b className="text-display leading-none font-semibold">{money(g.per_jar)}</b>
        <span className="ml-2 text-ink-2">
          {g.at_least && "at least, "}a jar, {shop.currency}
        </span>
        {effect && <b className={`ml-2 text-note ${effect.per_jar == null ? "text-mustard-ink" : "text-cobalt"}`}>{moreWords(effect)}</b>}
      </p>
      {!g.ph.no_water && <PhAxis low={g.ph.low} high={g.ph.high} target={g.ph_target} limit={g.ph_limit} width={380} />}
      <dl className="grid grid-cols-[112px_1fr] gap-y-0.5 text-note">
        <dt className="text-ink-2">salt in water</dt>
        <dd>{num(g.salt_in_water_percent, 2)} %</dd>
        <dt className="text-ink-2">allergens</dt>
        <dd>{allergensOf(g)}</dd>
        <dt className="text-ink-2">kept</dt>
        <dd>{g.keeping}</dd>
      </dl>
      <p className="mt-1 border-t border-rule-soft pt-1 text-note leading-normal">
        <Emphasised text={g.declaration} />
      </p>
    </section>
  );
}
