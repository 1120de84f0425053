import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, problemOf, take } from "../../api/client";
import { refreshFormulas, useFormulas } from "../../api/queries/formulas";
import { Head } from "../../parts/form";
import { MakeUpBar, MakeUpLegend } from "../../parts/makeup";
import { Failed, Loading, State } from "../../parts/marks";
import { useFormats } from "../../parts/shop";
import { fixed } from "../../tongue/quantity";
import { say } from "../../tongue/words";
import { NameDialog } from "./NameDialog";
import { allergensOf } from "./Panel";

export default function Formulas() {
  const list = useFormulas();
  const { num, money, shop } = useFormats();
  const [starting, setStarting] = useState(false);
  const client = useQueryClient();
  const navigate = useNavigate();
  if (list.isPending) return <Loading what="the formulas" />;
  if (list.isError) return <Failed message={problemOf(list.error).title} again={() => list.refetch()} />;
  const shown = list.data.filter((f) => !f.retired);
  return (
    <div className="px-6 pt-4 pb-6">
      <Head title="Formulas" sub={`${shown.length} products and components`}>
        <Link to="/reader" className="btn-quiet inline-flex items-center">
          Read a recipe
        </Link>
        <button type="button" className="btn" onClick={() => setStarting(true)}>
          Start a formula
        </button>
      </Head>
      {shown.length === 0 ? (
        <div className="sheet mt-4 max-w-xl p-6">
          <p className="font-title text-title">No formula yet.</p>
          <p className="mt-2 text-ink-2">
            Give a product a name, type its first ingredient, then its grams. {say("example_sheet")} is on paper in a minute.
          </p>
        </div>
      ) : (
        <section className="sheet mt-3 overflow-x-auto">
          <table className="ledger w-full min-w-245">
            <thead>
              <tr>
                <th className="pl-4">Product</th>
                <th>Version</th>
                <th className="pl-2">Made of, percent</th>
                <th className="num">Estimate, pH</th>
                <th className="num">Target</th>
                <th className="num">A jar, {shop.currency}</th>
                <th className="num">Fill</th>
                <th className="pl-6">Allergens, {shop.regime}</th>
                <th className="num pr-4">Batches</th>
              </tr>
            </thead>
            <tbody>
              {shown.map((f) => (
                <tr key={f.id} className="hover:bg-cobalt-tint">
                  <td className="h-11.5! pr-3 pl-4">
                    <Link to={`/formulas/${f.id}`} className="font-title text-lead font-semibold hover:text-cobalt">
                      {f.name}
                    </Link>
                    <span className="block text-note leading-tight text-ink-3">{f.component ? "component" : f.style}</span>
                  </td>
                  <td className="whitespace-nowrap">
                    <span className="mr-2 font-semibold">{f.version}</span>
                    <State of={f.state} />
                  </td>
                  <td className="pl-2">
                    {f.problem ? (
                      <span className="text-beet">{f.problem}</span>
                    ) : (
                      <MakeUpBar makeUp={f.make_up} scale={1.5} height={13} max={150} />
                    )}
                  </td>
                  <td className="num">
                    {f.ph.low != null && f.ph.high != null ? (
                      <span className="inline-flex items-center gap-2 whitespace-nowrap">
                        <span
                          aria-hidden
                          className="hatch h-2.5 border border-cobalt"
                          style={{ width: Math.max(4, (f.ph.high - f.ph.low) * 36) }}
                        />
                        <span className={f.ph.high > f.ph_target ? "font-semibold text-mustard-ink" : ""}>
                          {fixed(f.ph.low, 2)} to {fixed(f.ph.high, 2)}
                        </span>
                      </span>
                    ) : (
                      "—"
                    )}
                  </td>
                  <td className="num">{fixed(f.ph_target, 1)}</td>
                  <td className="num font-semibold whitespace-nowrap">
                    {f.at_least && <span className="mr-1 text-note font-normal text-mustard-ink">at least</span>}
                    {money(f.per_jar)}
                  </td>
                  <td className="num">
                    {num(f.fill_g)}
                    <span className="unit">g</span>
                  </td>
                  <td className={`pl-6 text-note ${f.open > 0 ? "font-semibold text-mustard-ink" : ""}`}>{allergensOf(f)}</td>
                  <td className="num pr-4">{f.batches || ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="px-4 py-2">
            <MakeUpLegend />
          </div>
        </section>
      )}
      {starting && (
        <NameDialog
          title="Start a formula"
          button="Open the sheet"
          start={async (name) => {
            const sheet = await take(api.POST("/formulas", { body: { name } }));
            await refreshFormulas(client);
            navigate(`/formulas/${sheet.formula}/1`);
          }}
          onClose={() => setStarting(false)}
        />
      )}
    </div>
  );
}
