import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useBlocker } from "react-router";
import { Modal } from "../parts/form";
import { AWAY, FULL } from "./saver";
import { anyUnsaved, useAllUnsaved, useHears } from "./unsaved";

/** What is typed and not stored, where the server is away or a person is needed: said on every screen until it is. */
export function Strip() {
  const all = useAllUnsaved().filter((u) => u.kept && u.why);
  const away = all.filter((u) => u.away);
  const rest = all.filter((u) => !u.away);
  const trouble = away.some((u) => u.why === FULL.why) ? FULL : AWAY;
  const hears = useHears();
  const client = useQueryClient();
  // while nothing is heard, what is on screen is asked for again until it comes
  useEffect(() => {
    if (hears) return;
    const timer = setInterval(() => void client.refetchQueries({ type: "active" }), 3000);
    return () => clearInterval(timer);
  }, [hears, client]);
  if (all.length === 0 && hears) return null;
  return (
    <div role="status" className="border-t-3 border-mustard bg-mustard-tint px-6 py-2 text-body">
      {away.length === 0 && !hears && (
        <p>
          <b className="text-mustard-ink">Gallipot does not answer.</b> What is on screen may be old; nothing typed is lost.
        </p>
      )}
      {away.length > 0 && (
        <p className="flex flex-wrap items-center gap-x-3">
          <span>
            <b className="text-mustard-ink">{trouble.why}.</b> What you typed is kept here and {trouble.until}:{" "}
            {away.map((u) => u.what).join(", ")}. Leave this window open.
          </span>
          <button
            type="button"
            className="btn-quiet"
            onClick={() => {
              for (const u of away) u.again?.();
            }}
          >
            Try now
          </button>
        </p>
      )}
      {rest.map((u) => (
        <p key={u.id}>
          <b className="text-mustard-ink">Not stored:</b>{" "}
          {u.link ? (
            <Link className="font-semibold text-cobalt underline" to={u.link}>
              {u.what}
            </Link>
          ) : (
            u.what
          )}
          , {u.why}
        </p>
      ))}
    </div>
  );
}

/** Asks before a screen is left with words on it that are stored nowhere. */
export function LeaveGuard() {
  const blocker = useBlocker(
    ({ currentLocation: from, nextLocation: to }) =>
      (from.pathname !== to.pathname || from.search !== to.search) && anyUnsaved().some((u) => !u.kept),
  );
  const [what, setWhat] = useState<string[]>([]);
  const stay = useRef<HTMLButtonElement>(null);
  const blocked = blocker.state === "blocked";
  useEffect(() => {
    if (blocked) setWhat(anyUnsaved().flatMap((u) => (u.kept ? [] : [u.what])));
  }, [blocked]);
  return (
    <Modal open={blocked} onClose={() => blocker.reset?.()} title="Not stored yet" width={460}>
      <p className="mb-4">{what.join("; ")}. Leaving lets it go.</p>
      <div className="flex justify-end gap-2">
        <button type="button" className="btn-beet" onClick={() => blocker.proceed?.()}>
          Let it go
        </button>
        <button ref={stay} type="button" className="btn" onClick={() => blocker.reset?.()}>
          Stay here
        </button>
      </div>
    </Modal>
  );
}
