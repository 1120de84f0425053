import { useState } from "react";
import { Link } from "react-router";
import { useParties } from "../../api/queries/parties";
import { useFormats } from "../../parts/shop";
import { JarStrip, JarTint } from "./JarStrip";
import { type JarsAt, placeWord } from "./jarPlaces";
import { MoveJars } from "./MoveJars";
import type { BatchData, Write } from "./record";

/** Where the jars of this batch are, and who has them. */
export function JarsSection({ b, write }: { b: BatchData; write: Write }) {
  const { moment } = useFormats();
  const [moving, setMoving] = useState<JarsAt | null>(null);
  const parties = useParties();
  const at = b.record.jars;
  const all = at.reduce((s, x) => s + x.jars, 0);
  const out = at.filter((x) => x.place === "with");
  const outside = out.reduce((s, x) => s + x.jars, 0);
  if (all === 0)
    return (
      <section className="sheet max-w-190 p-5">
        <p className="font-title text-title">No jar is filled yet.</p>
        <p className="mt-1 text-ink-2">Once they are counted, every jar is followed here until it is sold, withdrawn or broken.</p>
      </section>
    );
  return (
    <section className="sheet max-w-215 p-5" aria-label="Where the jars are">
      {b.record.words
        .filter((w) => !w.how)
        .map((w) => (
          <p key={w.change} className="mb-3 border-l-6 border-beet bg-beet-tint px-4 py-2 text-lead">
            <b className="text-beet">Their words lack {w.lacks}.</b> Relabel them, withdraw them, or say who was told:{" "}
            <Link to={`/allergens/${w.change}`} className="font-semibold text-cobalt underline">
              work it off
            </Link>
            .
          </p>
        ))}
      {b.record.state === "called_back" && (
        <div className="mb-4 border-l-6 border-beet bg-beet-tint px-4 py-3">
          <p className="font-title text-title leading-tight font-semibold text-beet">
            {outside === 0 ? "By the book nobody has jars of it any more." : `${outside} jars are out: tell them now.`}
          </p>
          {out.length > 0 && (
            <ul className="mt-2">
              {out.map((x) => {
                const who = parties.data?.find((p) => p.id === x.party);
                return (
                  <li key={x.party} className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_70px] gap-3 py-1 text-body">
                    <b className="[overflow-wrap:anywhere]">{x.party_name}</b>
                    <span className="[overflow-wrap:anywhere]">
                      {who?.contact || (who?.kind === "market" ? "sold at the stall: put a notice up" : "")}
                    </span>
                    <span className="text-right font-semibold">{x.jars} jars</span>
                  </li>
                );
              })}
            </ul>
          )}
        </div>
      )}
      <p className="mb-2 flex items-baseline gap-3">
        <span className="text-display leading-none font-semibold">{all}</span>
        <span className="text-ink-2">jars, each in one place</span>
      </p>
      <JarStrip at={at} height={28} />
      <table className="ledger mt-3 w-full">
        <thead>
          <tr>
            <th>where</th>
            <th>since</th>
            <th className="num">jars</th>
            <th className="w-27.5" />
          </tr>
        </thead>
        <tbody>
          {at.map((x) => (
            <tr key={`${x.place} ${x.party ?? 0}`}>
              <td className="text-lead">
                <JarTint place={x.place} />
                {x.place === "with" ? x.party_name : placeWord(x.place)}
              </td>
              <td className="text-note whitespace-nowrap text-ink-2">{moment(x.since)}</td>
              <td className="num text-lead font-semibold">{x.jars}</td>
              <td className="text-right">
                <button type="button" className="btn-quiet" onClick={() => setMoving(x)}>
                  {x.place === "with" ? "Came back" : "Move"}
                  <span className="sr-only"> {x.place === "with" ? `from ${x.party_name}` : placeWord(x.place)}</span>
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {b.record.state === "released" && (
        <p className="mt-3 text-body text-ink-2">
          Several products to one customer, what ends first first:{" "}
          <Link to="/jars?send=1" className="font-semibold text-cobalt">
            send jars
          </Link>
          .
        </p>
      )}
      {moving && <MoveJars b={b} from={moving} write={write} onClose={() => setMoving(null)} />}
    </section>
  );
}
