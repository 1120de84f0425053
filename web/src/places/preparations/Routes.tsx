import { type ReactNode, useState } from "react";
import { fieldMessage, problemOf, type Schemas } from "../../api/client";
import { useRoutes } from "../../api/queries/preparations";
import { ChooseIngredient } from "../../parts/choose";
import { MakeUpBar } from "../../parts/makeup";
import { NumberField } from "../../parts/number";
import { useFormats } from "../../parts/shop";
import { fixed } from "../../tongue/quantity";
import { left, type PreparationData, type RouteData, sharesWord, stepWords } from "./ways";

type Route = Schemas["Route"];

/** What to buy for grams of the output, and another way beside it at the same grams. */
export function Routes({ p, all }: { p: PreparationData; all: PreparationData[] }) {
  const { num, money, shop } = useFormats();
  const [out, setOut] = useState<number | null>(1000);
  const [co, setCo] = useState<number | null>(0);
  const [others, setOthers] = useState<(Route & { name: string })[]>([]);
  const routes: Route[] = [
    { preparation: p.id, ingredient: "" },
    ...others.map(({ preparation, ingredient }) => ({ preparation, ingredient })),
  ];
  const q = useRoutes(p, { routes, out_g: out ?? 0, co_out_g: p.co_output ? (co ?? 0) : 0 });
  const problem = q.error ? problemOf(q.error) : null;
  const rivals = all.filter(
    (x) =>
      x.id !== p.id && !others.some((o) => o.preparation === x.id) && (x.output === p.output || sharesWord(x.output_name, p.output_name)),
  );
  return (
    <section className="sheet mt-4 p-4">
      <h3 className="phase mb-2 text-lead">What to buy, and other ways to the same grams</h3>
      <div className="flex flex-wrap items-start gap-3">
        <NumberField
          className="w-37.5"
          label={`${p.output_name} needed`}
          unit="g"
          value={out}
          onValue={setOut}
          error={fieldMessage(problem, "out_g")}
        />
        {p.co_output && (
          <NumberField
            className="w-37.5"
            label={`${p.co_output_name} needed`}
            unit="g"
            value={co}
            onValue={setCo}
            error={fieldMessage(problem, "co_out_g")}
          />
        )}
        {others.length < 3 && (
          <div className="mt-5.5 flex flex-wrap items-center gap-1">
            {rivals.slice(0, 3).map((r) => (
              <button
                key={r.id}
                type="button"
                className="btn-line"
                onClick={() => setOthers([...others, { preparation: r.id, ingredient: "", name: r.name }])}
              >
                beside: {r.input_name.split(",")[0]}, {stepWords(r.name)}
              </button>
            ))}
            <ChooseIngredient
              label="Compare with something bought as it is"
              className="btn-line"
              onChoose={(id, name) => setOthers([...others, { preparation: "", ingredient: id, name }])}
            >
              beside: bought ready …
            </ChooseIngredient>
          </div>
        )}
      </div>
      {problem && problem.fields.length === 0 && <p className="mt-2 text-note font-semibold text-beet">{problem.title}</p>}
      {q.data && (
        <div className="mt-3 grid gap-x-4" style={{ gridTemplateColumns: `128px repeat(${q.data.length}, minmax(0, 1fr))` }}>
          <Row
            name=""
            cells={q.data.map((r, i) => (
              <Title
                key={`${r.name}${r.bought}`}
                r={r}
                onDrop={i > 0 ? () => setOthers(others.filter((_, k) => k !== i - 1)) : undefined}
              />
            ))}
          />
          <Row name="buy" cells={q.data.map((r) => <Big key={r.name + r.bought} v={num(r.buy_g, 0)} unit={`g ${r.bought}`} />)} />
          <Row
            name="cost with hands"
            cells={q.data.map((r) =>
              r.total == null ? (
                <span key={r.bought} className="text-mustard-ink">
                  no price for {r.bought}
                </span>
              ) : (
                <Big
                  key={r.name + r.bought}
                  v={money(r.total)}
                  unit={`${shop.currency}: ${money(r.material ?? 0)} goods, ${money(r.labour)} hands`}
                />
              ),
            )}
          />
          <Row
            name="time"
            cells={q.data.map((r) => (
              <span key={r.name + r.bought}>
                {num(r.minutes, 0)} min hands on, {r.wait_min >= 120 ? `${num(r.wait_min / 60, 1)} h` : `${num(r.wait_min, 0)} min`} waiting
              </span>
            ))}
          />
          <Row name="left over" cells={q.data.map((r) => <span key={r.name + r.bought}>{left(r, num)}</span>)} />
          <Row
            name="made of"
            cells={q.data.map((r) => <MakeUpBar key={r.name + r.bought} makeUp={r.make_up} scale={1.9} height={14} max={210} />)}
          />
          <Row
            name="acidity"
            cells={q.data.map((r) => (
              <span key={r.name + r.bought}>
                {r.ph ? `pH ${fixed(r.ph.typical, 1)}, ${fixed(r.ph.low, 1)} to ${fixed(r.ph.high, 1)}` : "no pH known"}, acid{" "}
                {num(r.titratable_percent, 2)} %, salt {num(r.salt_percent, 2)} %
              </span>
            ))}
          />
          <Row
            name="declared as"
            cells={q.data.map((r) => (
              <span key={r.name + r.bought} className="wrap-break-word">
                {r.declared}
                {r.allergens.length > 0 && <b> ({r.allergens.join(", ")})</b>}
              </span>
            ))}
          />
        </div>
      )}
      <p className="mt-2 text-note text-ink-2">
        Outputs of the same pieces are bought once: the greater need counts, not the sum. Knives and ovens: gloves on, blades away from the
        bowl.
      </p>
    </section>
  );
}

function Row({ name, cells }: { name: string; cells: ReactNode[] }) {
  return (
    <>
      <div className="border-b border-rule-soft py-2 text-note text-ink-3">{name}</div>
      {cells.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: columns have no identity but their place
        <div key={i} className="min-w-0 border-b border-rule-soft py-2 text-note">
          {c}
        </div>
      ))}
    </>
  );
}

function Title({ r, onDrop }: { r: RouteData; onDrop?: () => void }) {
  return (
    <div className="flex items-baseline justify-between gap-2">
      <b className="font-title text-lead">
        {r.out_name}, <i>{r.name}</i>
      </b>
      {onDrop && (
        <button type="button" className="min-h-6 text-note text-ink-3 hover:text-cobalt" onClick={onDrop}>
          take away
        </button>
      )}
    </div>
  );
}

function Big({ v, unit }: { v: string; unit: string }) {
  return (
    <span>
      <b className="text-lead font-semibold">{v}</b> <span className="text-note text-ink-2">{unit}</span>
    </span>
  );
}
