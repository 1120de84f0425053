import { useState } from "react";
import { Link } from "react-router";
import { fieldMessage, type Problem } from "../../api/client";
import { useParties } from "../../api/queries/parties";
import { Foot, Modal, TextField } from "../../parts/form";
import { Caution } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { useFormats } from "../../parts/shop";
import { JarStrip, JarTint } from "./JarStrip";
import { type JarsAt, placeWord, waysFrom } from "./jarPlaces";
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
      {moving && <MoveDialog b={b} from={moving} write={write} onClose={() => setMoving(null)} />}
    </section>
  );
}

function MoveDialog({ b, from, write, onClose }: { b: BatchData; from: JarsAt; write: Write; onClose: () => void }) {
  const { day } = useFormats();
  const parties = useParties();
  const ways = waysFrom(from.place).filter((p) => p !== "with" || b.record.state === "released");
  const [to, setTo] = useState(ways[0]);
  const [jars, setJars] = useState<number | null>(from.jars);
  const [party, setParty] = useState("");
  const [reason, setReason] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const send = async () => {
    const p = await write({
      kind: "moved",
      moved: {
        from: from.place,
        to,
        jars: jars ?? 0,
        party: from.place === "with" ? from.party : to === "with" ? Number(party) : undefined,
        reason: reason.trim() || undefined,
      },
    });
    setProblem(p);
    if (!p) onClose();
  };
  return (
    <Modal open onClose={onClose} title={from.place === "with" ? `Back from ${from.party_name}` : `Move jars of ${b.code}`} width={460}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        {from.place === "with" && b.record.state === "called_back" && (
          <div className="mb-3">
            <Caution level="danger" title="Called back.">
              What comes back is withdrawn or broken; it is never put back.
            </Caution>
          </div>
        )}
        <div className="grid grid-cols-[110px_minmax(0,1fr)] gap-3">
          <NumberField
            label={`Jars (of ${from.jars})`}
            autoFocus
            value={jars}
            onValue={setJars}
            error={fieldMessage(problem, "moved.jars")}
          />
          <SelectField
            label="are now"
            value={to}
            onValue={(chosen) => setTo(chosen)}
            options={ways.map((w) => [w, w === "with" ? "with a customer or market" : placeWord(w)] as const)}
            error={fieldMessage(problem, "moved.to")}
          />
        </div>
        {to === "with" && (
          <SelectField
            className="mt-3"
            label="with whom"
            value={party}
            onValue={(chosen) => setParty(chosen)}
            options={[
              ["", "choose"],
              ...(parties.data ?? [])
                .filter((p) => !p.retired)
                .map((p) => [String(p.id), p.day ? `${p.name}, ${day(p.day, true)}` : p.name] as const),
            ]}
            error={fieldMessage(problem, "moved.party")}
          />
        )}
        <TextField
          className="mt-3"
          label="A word to it (an owner's reason, where jars come back into sale)"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          error={fieldMessage(problem, "moved.reason")}
        />
        <Foot problem={problem} leave="Leave them" onLeave={onClose}>
          Write it down
        </Foot>
      </form>
    </Modal>
  );
}
