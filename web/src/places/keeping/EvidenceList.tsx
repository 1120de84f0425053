import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, take } from "../../api/client";
import { useEvidenceOf } from "../../api/queries/keeping";
import { refreshAll } from "../../api/queries/keys";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";
import { today } from "../../tongue/clock";
import { dayShown } from "../../tongue/days";
import { beside } from "../../tongue/quantity";
import { AttachDialog } from "./AttachDialog";
import { KINDS } from "./kinds";

/** What a document says it covers, in one line. */
function covers(e: Schemas["EvidenceView"]): string {
  const degrees = (c: number) => [`${c} °C`, beside(c, "temperature")].filter(Boolean).join(", ");
  const step = e.no_heat ? "no heat step needed" : e.heat_c ? `${degrees(e.heat_c)} for ${e.heat_min} min` : "";
  return [
    `version ${e.versions.join(", ")}`,
    e.law ? `${e.law} law` : "",
    e.product,
    e.max_ph ? `up to pH ${e.max_ph}` : "",
    e.storage,
    step,
    e.issued_by ? `issued by ${e.issued_by}` : "",
    e.dated ? `dated ${dayShown(e.dated)}` : "",
    e.fingerprint ? `fingerprint ${e.fingerprint.slice(0, 12)}…` : "",
  ]
    .filter(Boolean)
    .join(", ");
}

/** Documents attached to a formula; a rule that names one looks for it here. */
export function EvidenceList({ formula, versions }: { formula: string; versions: number[] }) {
  const { day } = useFormats();
  const client = useQueryClient();
  const list = useEvidenceOf(formula);
  const [open, setOpen] = useState(false);
  const refresh = () => refreshAll(client);
  const me = useMe();
  const [going, setGoing] = useState<number | null>(null);
  const withdraw = async (why: string) => {
    await take(api.DELETE("/evidence/{id}", { params: { path: { id: going ?? 0 }, query: { why } } }));
    await refresh();
  };
  return (
    <div>
      <WhyDialog
        open={going !== null}
        title="Withdraw this document"
        text="It stays readable. Batches that were released because of it are called back where a rule of safety needed it."
        button="Withdraw it"
        act={withdraw}
        onClose={() => setGoing(null)}
      />
      {list.data?.length === 0 && <p className="text-note text-ink-2">None attached.</p>}
      <ul>
        {list.data?.map((e) => (
          <li key={e.id} className={`border-b border-rule-soft py-1 ${e.withdrawn ? "text-ink-3" : ""}`}>
            <div className="flex min-h-8 items-center gap-3">
              <span className={`font-semibold ${e.withdrawn ? "line-through" : ""}`}>
                {KINDS.find(([k]) => k === e.kind)?.[1] ?? e.kind}
              </span>
              <a className="text-cobalt underline" href={`/api/evidence/${e.id}`}>
                {e.title}
              </a>
              {e.days != null && <span>{e.days} days</span>}
              <span className="ml-auto text-note text-ink-2">
                signed off by {e.attached_by}, {day(today(new Date(e.attached_at)), true)}
              </span>
              {!e.withdrawn && me.may("owner") && (
                <button type="button" className="btn-quiet" onClick={() => setGoing(e.id)}>
                  Withdraw
                </button>
              )}
            </div>
            <p className="text-note text-ink-2">{covers(e)}</p>
            {e.withdrawn && (
              <p className="text-note">
                Withdrawn by {e.withdrawn_by}: {e.withdrawn_why}
              </p>
            )}
            {!e.withdrawn && e.why_not && (
              <p className="text-note font-semibold text-beet">
                Counts for nothing for version {e.newest}: {e.why_not}.
              </p>
            )}
          </li>
        ))}
      </ul>
      {me.may("owner") && (
        <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
          Attach a document
        </button>
      )}
      {open && <AttachDialog formula={formula} versions={versions} onClose={() => setOpen(false)} onDone={refresh} />}
    </div>
  );
}
