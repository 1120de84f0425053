import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { useFormats } from "../../../parts/shop";

type Plan = Schemas["PlanView"];
type Buy = Schemas["Buy"];

/** What to get after what is on the shelf: what is short first. */
export function ToGet({ plan }: { plan: Plan }) {
  const { num, money, shop } = useFormats();
  const { buy, cost, enough, unpriced } = plan.shopping;
  const short = buy.filter((b) => b.short_g > 0);
  const there = buy.filter((b) => b.short_g <= 0);
  return (
    <section className="sheet mt-3.5 overflow-x-auto px-4.5 pt-3 pb-2" aria-labelledby="to-get">
      <div className="flex items-baseline justify-between">
        <h2 id="to-get" className="font-title text-lead text-ink-2 italic">
          What to get, after what is on the shelf
        </h2>
        <span className="no-print flex">
          <button type="button" className="btn-quiet" onClick={() => window.print()}>
            Print
          </button>
          {plan.batch > 0 && (
            <a className="btn-quiet inline-flex items-center" href={`/api/batches/${plan.batch}/plan.csv`} download>
              As CSV
            </a>
          )}
        </span>
      </div>
      <table className="ledger w-full min-w-160">
        <thead>
          <tr>
            <th>for this batch</th>
            <th className="num">needed</th>
            <th className="pl-6">get</th>
            <th className="num">{shop.currency}</th>
            <th className="pl-6">left over</th>
          </tr>
        </thead>
        <tbody>
          {plan.made.map((m) => (
            <tr key={m.formula}>
              <td>
                <Link to={`/formulas/${m.formula}/${m.version}`} className="font-semibold text-ink hover:underline">
                  {m.name}
                </Link>{" "}
                <span className="text-note text-ink-2">made here, version {m.version}</span>
              </td>
              <td className="num">
                <Weight g={m.need_g} />
              </td>
              <td className="pl-6">
                {m.there_g >= m.need_g ? (
                  "in stock"
                ) : (
                  <>
                    <b className="font-semibold text-mustard-ink">make {num(m.need_g - m.there_g)} g of it first</b>{" "}
                    {m.frozen_g > 0 && <span className="text-note text-ink-2">or thaw: {num(m.frozen_g)} g are frozen</span>}
                    <Link className="no-print ml-2 text-cobalt underline" to={`/plan/${m.formula}/${m.version}`}>
                      plan it
                    </Link>
                  </>
                )}
              </td>
              <td />
              <td className="pl-6 text-note text-ink-2">{m.there_g > m.need_g ? `${num(m.there_g - m.need_g)} g left` : ""}</td>
            </tr>
          ))}
          {short.map((b) => (
            <Row key={b.ingredient} b={b} />
          ))}
          {there.map((b) => (
            <Row key={b.ingredient} b={b} />
          ))}
        </tbody>
        <tfoot>
          <tr className="border-t-3 border-double border-rule-strong font-semibold">
            <td>
              {short.length === 0
                ? "everything is on the shelf"
                : `${short.length} to get${enough > 0 ? `; ${enough} ${enough === 1 ? "is" : "are"} on the shelf` : ""}`}
            </td>
            <td />
            <td className="pl-6 font-normal text-mustard-ink">
              {unpriced.length > 0 && `at least: no price for ${unpriced.slice(0, 3).join(", ")}${unpriced.length > 3 ? " …" : ""}`}
            </td>
            <td className="num">{money(cost)}</td>
            <td />
          </tr>
        </tfoot>
      </table>
    </section>
  );
}

function Row({ b }: { b: Buy }) {
  const { num, money } = useFormats();
  const short = b.short_g > 0;
  return (
    <tr className={short ? "" : "text-ink-2"}>
      <td>
        <Link to={`/pantry/${b.ingredient}`} className={`${short ? "font-semibold text-ink" : "text-ink-2"} hover:underline`}>
          {b.name}
        </Link>
      </td>
      <td className="num">
        <Weight g={b.need_g} />
      </td>
      <td className="pl-6">
        {!short ? "in stock" : b.packs > 0 ? `${b.packs} × ${b.pack}` : b.pieces > 0 ? `${b.pieces} pieces` : `${num(b.short_g)} g`}
        {short && b.there_g > 0 && <span className="ml-2 text-note text-ink-2">beside {num(b.there_g)} g there</span>}
        {short && b.supplier && <span className="ml-2 text-note text-ink-2">{b.supplier}</span>}
      </td>
      <td className="num">{short ? b.cost == null ? <span className="text-note text-mustard-ink">no price</span> : money(b.cost) : "–"}</td>
      <td className="pl-6 text-note text-ink-2">
        {b.over_g > 0 && `${num(b.over_g)} g ${short ? "over" : "left"}`}
        {short && b.packs > 0 && b.pieces > 0 && `, ${b.pieces} of them needed`}
      </td>
    </tr>
  );
}

function Weight({ g }: { g: number }) {
  const { num } = useFormats();
  const small = g < 1000;
  return (
    <>
      {num(small ? g : g / 1000, small ? (g < 100 ? 1 : 0) : 2)}
      <span className="unit">{small ? "g" : "kg"}</span>
    </>
  );
}
