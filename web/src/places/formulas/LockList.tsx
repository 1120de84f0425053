import { useState } from "react";
import { Link } from "react-router";
import { problemOf, type Schemas } from "../../api/client";
import { useBeforeLock } from "../../api/queries/formulas";
import { Check, Modal } from "../../parts/form";
import { Failed, Loading } from "../../parts/marks";

type Point = Schemas["LockPoint"];

/** What would only hurt later, asked once before a version is locked: what blocks first, the rest is confirmed with the lock. */
export function LockList({
  formula,
  version,
  lock,
  goTo,
  onClose,
}: {
  formula: string;
  version: number;
  lock: (confirmed: string[]) => Promise<void>;
  goTo: (tab: string) => void;
  onClose: () => void;
}) {
  const q = useBeforeLock(formula, version);
  const [confirmed, setConfirmed] = useState<string[]>([]);
  const [busy, setBusy] = useState(false);
  const blocks = q.data?.filter((p) => p.blocks) ?? [];
  const asks = q.data?.filter((p) => !p.blocks) ?? [];
  const ready = q.data !== undefined && blocks.length === 0 && asks.every((p) => confirmed.includes(p.key));
  const act = async () => {
    setBusy(true);
    await lock(asks.map((p) => p.key));
    setBusy(false);
  };
  return (
    <Modal open onClose={onClose} title={`Before version ${version} is locked`} width={640}>
      {q.isPending && <Loading what="the list" />}
      {q.isError && <Failed message={[problemOf(q.error).title, ...problemOf(q.error).fields.map((f) => f.message)][0]} />}
      {q.data && (
        <>
          <p className="mb-3 text-ink-2">
            {q.data.length === 0
              ? "Nothing stands against it."
              : blocks.length > 0
                ? "What is marked with a stop must be put right first; its link leads there."
                : "Look at each once; ticking it says that you did."}{" "}
            A locked version never changes.
          </p>
          <ul>
            {blocks.map((p) => (
              <PointRow key={p.key} p={p} goTo={goTo} onClose={onClose}>
                <Stop />
              </PointRow>
            ))}
            {asks.map((p) => (
              <PointRow key={p.key} p={p} goTo={goTo} onClose={onClose}>
                <Check
                  label={<span className="sr-only">I looked at it: {p.title}</span>}
                  checked={confirmed.includes(p.key)}
                  onChange={(on) => setConfirmed(on ? [...confirmed, p.key] : confirmed.filter((k) => k !== p.key))}
                />
              </PointRow>
            ))}
          </ul>
        </>
      )}
      <div className="mt-5 flex justify-end gap-2">
        <button type="button" className="btn-line" onClick={onClose}>
          Leave it a draft
        </button>
        <button type="button" className="btn" disabled={!ready || busy} onClick={() => void act()}>
          Lock it for good
        </button>
      </div>
    </Modal>
  );
}

function Stop() {
  return (
    <svg width="22" height="22" viewBox="0 0 22 22" className="text-beet" aria-label="stop" role="img">
      <path d="M7 1h8l6 6v8l-6 6H7l-6-6V7z" fill="currentColor" />
      <path d="M6 9.500h10v3H6z" fill="#fff" />
    </svg>
  );
}

function PointRow({
  p,
  goTo,
  onClose,
  children,
}: {
  p: Point;
  goTo: (tab: string) => void;
  onClose: () => void;
  children: React.ReactNode;
}) {
  const look = "min-h-6 font-semibold text-cobalt underline underline-offset-2";
  return (
    <li className="grid grid-cols-[30px_minmax(0,1fr)_auto] items-start gap-2 border-t border-rule py-2.5">
      <span className="pt-0.5">{children}</span>
      <span>
        <b className={`block text-lead ${p.blocks ? "text-beet" : ""}`}>{p.title}</b>
        <span className="block text-note text-ink-2">{p.text}</span>
      </span>
      {p.link ? (
        <Link to={p.link} className={look}>
          To it
        </Link>
      ) : (
        <button
          type="button"
          className={look}
          onClick={() => {
            goTo(p.tab || "sheet");
            onClose();
          }}
        >
          To it
        </button>
      )}
    </li>
  );
}
