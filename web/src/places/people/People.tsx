import { useState } from "react";
import type { Schemas } from "../../api/client";
import { usePeople } from "../../api/queries/people";
import { useMe } from "../../parts/session";
import { PersonDialog } from "./PersonDialog";

type Person = Schemas["PersonView"];

/** Who works here, and as what. People who left stay readable. */
export function People() {
  const people = usePeople();
  const me = useMe();
  const [open, setOpen] = useState<Person | "new" | null>(null);
  const here = people.data?.filter((p) => !p.retired_at) ?? [];
  const left = people.data?.filter((p) => p.retired_at) ?? [];
  return (
    <section className="sheet col-span-2 p-5" aria-label="People">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="phase text-lead">People</h2>
        {me.may("owner") && (
          <button type="button" className="btn-line" onClick={() => setOpen("new")}>
            Add somebody
          </button>
        )}
      </div>
      <ul className="grid grid-cols-2 gap-x-8">
        {here.map((p) => (
          <li key={p.id} className="flex min-h-11.5 items-center justify-between gap-3 border-b border-rule-soft">
            <span className="min-w-0 truncate text-lead font-semibold">
              {p.name} <span className="phase ml-1 font-normal">{p.role}</span>
              {!p.can_sign_in && <span className="ml-2 text-note font-normal text-mustard-ink">no PIN yet</span>}
            </span>
            {(me.may("owner") || p.name === me.name) && (
              <button type="button" className="btn-quiet" onClick={() => setOpen(p)}>
                {me.may("owner") ? "Change" : "New PIN"}
              </button>
            )}
          </li>
        ))}
      </ul>
      {left.length > 0 && (
        <p className="mt-3 text-note text-ink-2">Worked here: {left.map((p) => `${p.name} (${p.retired_why})`).join(", ")}.</p>
      )}
      {open && <PersonDialog key={open === "new" ? "new" : open.id} of={open === "new" ? null : open} onClose={() => setOpen(null)} />}
    </section>
  );
}
