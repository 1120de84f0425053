import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, fieldMessage, type Problem, take } from "../../api/client";
import { guarded } from "../../api/guard";
import { Modal, NumberField, SelectField, TextField } from "../../parts/form";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { WhyDialog } from "../../parts/why";

export const KINDS: [string, string][] = [
  ["quality_study", "own keeping study"],
  ["product_assessment", "product assessment (US rule 3)"],
  ["listeria_study", "study with Listeria counts (GB rule 4)"],
  ["authority", "authority's document (rule 2)"],
];

/** Documents attached to a formula; a rule that names one looks for it here. */
export function EvidenceList({ formula }: { formula: string }) {
  const { day } = useFormats();
  const client = useQueryClient();
  const list = useQuery({ queryKey: ["evidence", formula], queryFn: () => take(api.GET("/evidence", { params: { query: { formula } } })) });
  const [open, setOpen] = useState(false);
  const refresh = () => client.invalidateQueries();
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
      {list.data?.length === 0 && <p className="text-[13px] text-ink-2">None attached.</p>}
      <ul>
        {list.data?.map((e) => (
          <li
            key={e.id}
            className={`flex min-h-9 items-center gap-3 border-b border-rule-soft ${e.withdrawn ? "text-ink-3 line-through" : ""}`}
          >
            <span className="font-semibold">{KINDS.find(([k]) => k === e.kind)?.[1] ?? e.kind}</span>
            <a className="text-cobalt underline" href={`/api/evidence/${e.id}`}>
              {e.title}
            </a>
            {e.days != null && <span>{e.days} days</span>}
            <span className="ml-auto text-[12.5px] text-ink-2">
              signed off by {e.attached_by}, {day(e.attached_at.slice(0, 10), true)}
            </span>
            {!e.withdrawn && me.may("owner") && (
              <button type="button" className="btn-quiet" onClick={() => setGoing(e.id)}>
                Withdraw
              </button>
            )}
          </li>
        ))}
      </ul>
      {me.may("owner") && (
        <button type="button" className="btn-quiet" onClick={() => setOpen(true)}>
          Attach a document
        </button>
      )}
      <AttachDialog formula={formula} open={open} onClose={() => setOpen(false)} onDone={refresh} />
    </div>
  );
}

function AttachDialog({ formula, open, onClose, onDone }: { formula: string; open: boolean; onClose: () => void; onDone: () => void }) {
  const [kind, setKind] = useState("quality_study");
  const [title, setTitle] = useState("");
  const [days, setDays] = useState<number | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const send = async () => {
    const form = new FormData();
    form.set("formula", formula);
    form.set("kind", kind);
    form.set("title", title);
    if (days !== null) form.set("days", String(days));
    const f = file.current?.files?.[0];
    if (f) form.set("file", f);
    const r = await guarded("/api/evidence", { method: "POST", body: form });
    if (!r.ok) {
      setProblem((await r.json()) as Problem);
      return;
    }
    setProblem(null);
    onDone();
    onClose();
  };
  return (
    <Modal open={open} onClose={onClose} title="Attach a document" width={460}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        <SelectField
          label="What it is"
          value={kind}
          options={KINDS}
          onChange={(e) => setKind(e.target.value)}
          error={fieldMessage(problem, "kind")}
        />
        <TextField label="Title" value={title} onChange={(e) => setTitle(e.target.value)} error={fieldMessage(problem, "title")} />
        {kind !== "authority" && (
          <NumberField
            label="Days it supports"
            unit="after making"
            allowEmpty
            value={days}
            onValue={setDays}
            error={fieldMessage(problem, "days")}
          />
        )}
        <label className="text-[12.5px] text-ink-2">
          The document
          <input ref={file} type="file" className="mt-1 block text-[13px]" />
        </label>
        {fieldMessage(problem, "file") && (
          <p role="alert" className="font-semibold text-beet">
            {fieldMessage(problem, "file")}
          </p>
        )}
        {problem && problem.fields.length === 0 && (
          <p role="alert" className="font-semibold text-beet">
            {problem.title}
          </p>
        )}
        <button type="submit" className="btn justify-self-end">
          Sign off and attach
        </button>
      </form>
    </Modal>
  );
}
