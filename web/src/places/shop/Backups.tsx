import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type Problem, problemOf, type Schemas, take } from "../../api/client";
import { refreshBackups, useBackups } from "../../api/queries/backups";
import { useMe } from "../../parts/session";
import { useFormats } from "../../parts/shop";
import { toast } from "../../parts/toast";

type Backup = Schemas["Backup"];

/** How the book is kept safe: when it was last backed up, and that nobody can rewrite it unseen. An owner's. */
export function Backups() {
  const me = useMe();
  const owner = me.may("owner");
  const backups = useBackups(owner);
  const client = useQueryClient();
  const [busy, setBusy] = useState(false);
  const here = useRef<HTMLElement>(null);
  const read = !!backups.data;
  useEffect(() => {
    if (read && window.location.hash === "#backups") here.current?.scrollIntoView({ block: "center" });
  }, [read]);
  const [problem, setProblem] = useState<Problem | null>(null);
  if (!owner) return null;
  const make = async () => {
    setBusy(true);
    setProblem(null);
    try {
      await take(api.POST("/backups"));
      toast("The backup is made.");
    } catch (e) {
      setProblem(problemOf(e));
    }
    await refreshBackups(client);
    setBusy(false);
  };
  const v = backups.data;
  const last = v?.made[0];
  return (
    <section className="sheet col-span-2 grid grid-cols-2 gap-8 p-5 max-tablet:grid-cols-1" ref={here} aria-label="Backup">
      <div>
        <h2 className="phase mb-1 text-lead">Backup</h2>
        {v && <Last of={last} old={v.old} />}
        <div className="mt-3 flex flex-wrap items-center gap-3">
          <button type="button" className="btn" disabled={busy} onClick={() => void make()}>
            {busy ? "Making it …" : "Make a backup now"}
          </button>
          {last && !last.file.includes("/") && (
            <a className="btn-line inline-flex items-center" href={`/api/backups/${last.id}/file`} download>
              Take the last one away
            </a>
          )}
        </div>
        {problem && (
          <p role="alert" className="mt-2 text-note font-semibold text-beet">
            {problem.title}
          </p>
        )}
        {v && (
          <>
            <p className="mt-3 text-note text-ink-2">
              {v.nightly ? "One is made each night, and the last 14 are kept, in " : "They are put into "}
              <code className="break-all">{v.folder}</code>. Take one to another building now and then: a fire takes the disk too.
            </p>
            <List made={v.made} />
          </>
        )}
      </div>
      {v && <Proof of={v} />}
    </section>
  );
}

/** When the last one was made, first of all. */
function Last({ of, old }: { of: Backup | undefined; old: string }) {
  const { kept } = useFormats();
  if (!of) return <p className={`text-lead font-semibold ${old ? "text-beet" : "text-ink-2"}`}>{old || "There is none yet."}</p>;
  return (
    <p className="text-lead font-semibold">
      {kept(of.at)}{" "}
      <span className="font-normal text-ink-2">
        by {of.by}, {sizeOf(of.bytes)}
      </span>
      {old && <span className="block text-body text-beet">{old}</span>}
    </p>
  );
}

const SHOWN = 5;

function List({ made }: { made: Backup[] }) {
  const { kept } = useFormats();
  if (made.length < 2) return null;
  return (
    <table className="mt-3 w-full text-note">
      <caption className="sr-only">Backups before</caption>
      <thead className="sr-only">
        <tr>
          <th>Made</th>
          <th>By</th>
          <th>Size</th>
        </tr>
      </thead>
      <tbody>
        {made.slice(1, SHOWN + 1).map((b) => (
          <tr key={b.id} className="border-b border-rule-soft">
            <td className="py-1">{kept(b.at)}</td>
            <td>{b.by}</td>
            <td className="num text-right">{sizeOf(b.bytes)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function sizeOf(bytes: number): string {
  if (bytes >= 1 << 30) return `${(bytes / (1 << 30)).toFixed(1)} GB`;
  if (bytes >= 1 << 20) return `${(bytes / (1 << 20)).toFixed(1)} MB`;
  return `${Math.ceil(bytes / 1024)} kB`;
}

/** Whether the record is protected, and the head that proves it later. */
function Proof({ of }: { of: Schemas["BackupsView"] }) {
  const { kept } = useFormats();
  return (
    <div className="border-rule-soft border-l pl-8 text-note max-tablet:border-l-0 max-tablet:pl-0">
      <h2 className="phase mb-1 text-lead">The book proves itself</h2>
      {of.unprotected ? (
        <p className="font-semibold text-beet">
          The record is not protected: {of.unprotected}. Whoever looks after the database gives Gallipot a role of its own (
          <code>MIGRATE_DATABASE_URL</code>).
        </p>
      ) : (
        <p className="text-ink-2">
          Gallipot can add to the record and cannot change it. Every row since {kept(of.since)} holds a digest of the one before.
        </p>
      )}
      <p className="mt-3 text-ink-2">
        The head of today. It stands on every printed batch record too, and shows later whether anything was cut off or written anew since (
        <code>gallipot verify -head</code>):
      </p>
      <code className="mt-1 block break-all text-body">{of.head}</code>
    </div>
  );
}
