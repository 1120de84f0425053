import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, problemOf, take } from "../../api/client";
import { actsAs, answerWith } from "../../api/guard";
import { refreshAll } from "../../api/queries/keys";
import { refreshSession } from "../../api/queries/people";
import { Modal, TextField } from "../../parts/form";
import type { Session } from "../../parts/session";
import { PIN_DIGITS, PinPad } from "./PinPad";

/** Names to tap, then a PIN; a passphrase for those who have one. */
export function Hands({ session, first, onDone }: { session: Session; first?: string; onDone: (name: string) => void }) {
  const [name, setName] = useState(first ?? (session.people.length === 1 ? session.people[0].name : ""));
  const [secret, setSecret] = useState("");
  const [phrase, setPhrase] = useState(false);
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState("");
  const sending = useRef(false);
  const send = async (s: string) => {
    if (sending.current) return;
    sending.current = true;
    setBusy(true);
    try {
      await take(api.POST("/session", { body: { name, secret: s } }));
      setError("");
      actsAs(name);
      onDone(name);
    } catch (e) {
      setError(problemOf(e).title);
      setSecret("");
    } finally {
      sending.current = false;
      setBusy(false);
    }
  };
  if (!name)
    return (
      <ul className="grid gap-2">
        {session.people.map((p) => (
          <li key={p.id}>
            <button
              type="button"
              onClick={() => setName(p.name)}
              className="flex min-h-14.5 w-full items-center justify-between gap-4 rounded-md border border-rule border-l-6 border-l-cobalt bg-white px-4 text-left text-title font-semibold hover:bg-cobalt-tint"
            >
              <span className="truncate">{p.name}</span>
              <span className="phase shrink-0 text-lead font-normal">{p.role}</span>
            </button>
          </li>
        ))}
      </ul>
    );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (secret) void send(secret);
      }}
    >
      <div className="mb-3 flex items-baseline justify-between gap-3">
        <span className="truncate font-title text-title font-semibold">{name}</span>
        <button
          type="button"
          className="btn-quiet"
          onClick={() => {
            setName("");
            setSecret("");
            setError("");
          }}
        >
          Somebody else
        </button>
      </div>
      {phrase ? (
        <>
          <TextField
            label="Passphrase"
            type="password"
            autoFocus
            autoComplete="current-password"
            value={secret}
            onChange={(e) => setSecret(e.target.value)}
            error={error}
          />
          <button type="submit" className="btn mt-4 w-full" disabled={busy || !secret}>
            Sign in
          </button>
        </>
      ) : (
        <PinPad
          label="PIN"
          value={secret}
          disabled={busy}
          error={error}
          onValue={(pin) => {
            setSecret(pin);
            if (pin) setError("");
            if (pin.length === PIN_DIGITS) void send(pin);
          }}
        />
      )}
      <button
        type="button"
        className="btn-quiet mt-2"
        onClick={() => {
          setPhrase(!phrase);
          setSecret("");
          setError("");
        }}
      >
        {phrase ? "I have a PIN" : "I have a passphrase"}
      </button>
    </form>
  );
}

/** Changing hands: one tap on a name, and a PIN. */
export function HandsDialog({ session, open, onClose }: { session: Session; open: boolean; onClose: () => void }) {
  const client = useQueryClient();
  return (
    <Modal open={open} onClose={onClose} title="Who goes on?" width={400}>
      {open && (
        <Hands
          session={session}
          onDone={() => {
            onClose();
            void refreshAll(client);
          }}
        />
      )}
      <div className="mt-4 border-t border-rule pt-3 text-right">
        <button
          type="button"
          className="btn-quiet"
          onClick={async () => {
            await take(api.DELETE("/session"));
            onClose();
            await refreshSession(client);
          }}
        >
          Sign out
        </button>
      </div>
    </Modal>
  );
}

/**
 * The lock that keeps the screen: when the server asks who it is, the PIN is asked for over what is open. The act goes on
 * only if the same person answers; whoever else signs in looks first.
 */
export function Lock({ session }: { session: Session }) {
  const client = useQueryClient();
  const [asked, setAsked] = useState<{ message: string; answer: (same: boolean) => void } | null>(null);
  const me = session.person?.name ?? "";
  useEffect(() => answerWith((_code, message) => new Promise((answer) => setAsked({ message, answer }))), []);
  const close = (same: boolean) => {
    asked?.answer(same);
    setAsked(null);
    void refreshSession(client);
  };
  return (
    <Modal open={!!asked} onClose={() => close(false)} title="Is it still you?" width={400}>
      {asked && (
        <>
          <p className="mb-4 text-body text-ink-2">{asked.message}</p>
          <Hands session={session} first={me} onDone={(name) => close(name === me)} />
        </>
      )}
    </Modal>
  );
}
