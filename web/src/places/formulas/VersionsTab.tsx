import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, problemOf, take } from "../../api/client";
import { forgetSheets, useCompared } from "../../api/queries/formulas";
import { Failed, Loading, State } from "../../parts/marks";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";
import { LockButton } from "./LockKept";
import { allergenWords, moreWords, signed } from "./Panel";
import type { Sheet } from "./useDraft";

/** All versions, and what changed between any two. */
export function VersionsTab({ view, current }: { view: Sheet; current: number }) {
  const { num, moment } = useFormats();
  const client = useQueryClient();
  const navigate = useNavigate();
  const numbers = view.versions.map((v) => v.version);
  const mine = view.versions.find((v) => v.version === current);
  const [before, setBefore] = useState(mine?.from || numbers[Math.max(0, numbers.indexOf(current) - 1)]);
  const [after, setAfter] = useState(current);
  const compared = useCompared(view, before, after);
  const drop = async () => {
    try {
      await take(
        api.DELETE("/formulas/{id}/versions/{number}", {
          params: { path: { id: view.formula, number: current }, query: { rev: view.rev } },
        }),
      );
      await forgetSheets(client, view.formula);
      navigate(`/formulas/${view.formula}`);
    } catch (e) {
      toast.error(problemOf(e).title);
    }
  };
  const options = numbers.map((n) => [String(n), `version ${n}`] as const);
  const d = compared.data;
  const tone: Record<string, string> = {
    added: "text-leaf",
    removed: "text-beet line-through",
    changed: "font-semibold",
    same: "text-ink-2",
  };
  return (
    <div className="sheet p-5">
      <p className="mb-2 flex flex-wrap gap-x-4 text-note">
        <span className="text-ink-2">Version {current} to take along:</span>
        {(
          [
            ["sheet.csv", "its lines, CSV"],
            ["cost.xlsx", "its cost, spreadsheet"],
            ["recipe", "a recipe file"],
          ] as const
        ).map(([file, words]) => (
          <a
            key={file}
            className="font-semibold text-cobalt hover:underline"
            href={`/api/formulas/${view.formula}/versions/${current}/${file}`}
            download
          >
            {words}
          </a>
        ))}
      </p>
      <table className="ledger w-full">
        <thead>
          <tr>
            <th>Version</th>
            <th>State</th>
            <th>From</th>
            <th>Last touched</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {view.versions.toReversed().map((v) => (
            <tr key={v.version} className={v.version === current ? "bg-cobalt-tint" : ""}>
              <td className="pl-2">
                <Link className="font-semibold text-cobalt underline" to={`/formulas/${view.formula}/${v.version}`}>
                  {v.version}
                </Link>
              </td>
              <td>
                <State of={v.state} />
              </td>
              <td>{v.from || "—"}</td>
              <td>
                {v.updated_by}, {moment(v.locked_at ?? v.updated_at)}
              </td>
              <td className="text-right">
                {v.state === "locked" && <LockButton formula={view.formula} version={v.version} />}
                {v.version === current && v.state === "draft" && numbers.length > 1 && (
                  <button type="button" className="btn-quiet text-beet!" onClick={drop}>
                    Throw this draft away
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {numbers.length > 1 && (
        <>
          <div className="mt-6 mb-3 flex items-end gap-3">
            <h2 className="phase pb-2 text-lead">What changed</h2>
            <SelectField label="from" value={String(before)} options={options} onValue={(chosen) => setBefore(Number(chosen))} />
            <SelectField label="to" value={String(after)} options={options} onValue={(chosen) => setAfter(Number(chosen))} />
          </div>
          {before === after && <p className="text-ink-2">Choose two different versions.</p>}
          {compared.isLoading && <Loading what="the difference" />}
          {compared.isError && <Failed message={problemOf(compared.error).title} />}
          {d && (
            <>
              <p className="mb-2 text-note">
                Per jar <b>{moreWords(d.effect)}</b>
                {d.effect.ph != null && (
                  <>
                    , estimated pH <b>{signed(d.effect.ph, 2)}</b>
                  </>
                )}
                , salt in water <b>{signed(d.effect.salt_in_water_percent, 2)} %</b>
                {d.effect.allergens_gained.length > 0 && <b className="text-beet">, now with {allergenWords(d.effect.allergens_gained)}</b>}
                {d.effect.allergens_lost.length > 0 && <b>, now without {allergenWords(d.effect.allergens_lost)}</b>}
                {d.effect.declaration_changed && ", the declaration reads differently"}.
              </p>
              <table className="ledger w-full">
                <thead>
                  <tr>
                    <th>Line</th>
                    <th className="num w-20">g in {d.before}</th>
                    <th className="num w-20">g in {d.after}</th>
                    <th className="num w-20">% in {d.before}</th>
                    <th className="num w-20">% in {d.after}</th>
                    <th className="w-24 pl-4">change</th>
                  </tr>
                </thead>
                <tbody>
                  {d.lines.map((l, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: the same ingredient may stand twice
                    <tr key={i} className={tone[l.kind]}>
                      <td>
                        {l.name}
                        {l.fields.map((f) => (
                          <small key={f.field} className="block text-note text-ink-2">
                            {f.field}: {f.before || "—"} → {f.after || "—"}
                          </small>
                        ))}
                      </td>
                      <td className="num">{l.kind === "added" ? "" : num(l.grams_before, 1)}</td>
                      <td className="num">{l.kind === "removed" ? "" : num(l.grams_after, 1)}</td>
                      <td className="num">{l.kind === "added" ? "" : num(l.percent_before, 2)}</td>
                      <td className="num">{l.kind === "removed" ? "" : num(l.percent_after, 2)}</td>
                      <td className="pl-4 no-underline">{l.kind === "same" ? "" : l.kind}</td>
                    </tr>
                  ))}
                  {d.fields.map((f) => (
                    <tr key={f.field} className="font-semibold">
                      <td>{f.field}</td>
                      <td className="py-1.5 pl-4" colSpan={4}>
                        <span className="font-normal text-ink-2">{f.before || "—"}</span> → {f.after || "—"}
                      </td>
                      <td className="pl-4">changed</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
        </>
      )}
    </div>
  );
}
