import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, fieldMessage, type Problem, problemOf, take } from "../../api/client";
import { refreshAll } from "../../api/queries/keys";
import { TextField } from "../../parts/form";
import type { Session } from "../../parts/session";
import { Hands } from "./Hands";

/** The door: who is it? On the first start whoever opens it becomes the owner. */
export default function SignIn({ session }: { session: Session }) {
  const client = useQueryClient();
  return (
    <main className="grid h-full grid-cols-[minmax(300px,42%)_minmax(0,1fr)] max-tablet:grid-cols-1 max-tablet:grid-rows-[auto_1fr]">
      <div className="relative flex flex-col justify-between overflow-hidden bg-cobalt-deep p-10 text-white max-tablet:p-5">
        <p className="font-title text-display font-semibold">Gallipot</p>
        <svg viewBox="0 0 240 280" aria-hidden="true" className="mx-auto w-[62%] max-w-82.5 max-tablet:hidden">
          <path d="M50 40h140v30c30 20 40 50 40 90 0 60-30 100-110 100S10 220 10 160c0-40 10-70 40-90z" fill="#f7f9fa" />
          <path d="M30 20h180v30H30z" fill="#c9d5f2" />
          <path d="M48 128q36-30 72 0t72 0M52 152q34-26 68 0t68 0" fill="none" stroke="#1f3f93" strokeWidth="7" />
          <path d="M24 190q32-22 64 0t64 0 64 0M36 212q28-18 56 0t56 0 56 0" fill="none" stroke="#9fb3de" strokeWidth="5" />
        </svg>
        <p className="font-title text-display leading-tight font-semibold max-tablet:text-title">
          {session.shop || "A new shop"}
          <span className="mt-2 block max-w-[34ch] font-text text-body leading-normal font-normal text-cobalt-pale max-tablet:hidden">
            Everything that is weighed, read and decided here carries the name of whoever did it.
          </span>
        </p>
      </div>
      <div className="flex min-h-0 flex-col overflow-y-auto p-10 max-tablet:p-5">
        <div className="m-auto w-full max-w-105 max-tablet:mt-0">
          {session.first ? (
            <FirstOwner onDone={() => refreshAll(client)} />
          ) : (
            <>
              <h1 className="mb-5 font-title text-display font-semibold">Who is it?</h1>
              <Hands session={session} onDone={() => void refreshAll(client)} />
            </>
          )}
          {session.made_up.length > 0 && (
            <section className="mt-8 border-t border-rule pt-3 text-note text-ink-2" aria-label="Made-up people">
              <p className="mb-1">This is the demo. Its people are made up, and so are their PINs:</p>
              <dl className="grid grid-cols-2 gap-x-6">
                {session.made_up.map((p) => (
                  <div key={p.name} className="flex justify-between">
                    <dt>{p.name}</dt>
                    <dd className="font-medium tabular-nums text-ink">{p.secret}</dd>
                  </div>
                ))}
              </dl>
            </section>
          )}
        </div>
      </div>
    </main>
  );
}

function FirstOwner({ onDone }: { onDone: () => void }) {
  const [name, setName] = useState("");
  const [secret, setSecret] = useState("");
  const [again, setAgain] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const differ = again !== "" && again !== secret;
  const send = async () => {
    try {
      await take(api.POST("/people/first", { body: { name, secret } }));
      onDone();
    } catch (e) {
      setProblem(problemOf(e));
    }
  };
  const other = problem && problem.fields.length === 0 ? problem.title : "";
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        if (!differ) void send();
      }}
    >
      <div>
        <h1 className="font-title text-display font-semibold">You are the first here</h1>
        <p className="mt-1 text-ink-2">
          Whoever begins is the owner: the one who decides on rules, documents and people. Others can be added afterwards.
        </p>
      </div>
      <TextField
        label="Your name"
        autoFocus
        autoComplete="username"
        value={name}
        onChange={(e) => setName(e.target.value)}
        error={fieldMessage(problem, "name") || other}
      />
      <TextField
        label="A PIN of 6 digits, or a passphrase"
        type="password"
        autoComplete="new-password"
        value={secret}
        onChange={(e) => setSecret(e.target.value)}
        error={fieldMessage(problem, "secret")}
      />
      <TextField
        label="The same once more"
        type="password"
        autoComplete="new-password"
        value={again}
        onChange={(e) => setAgain(e.target.value)}
        error={differ ? "the two are not the same" : ""}
      />
      <div className="flex justify-end">
        <button type="submit" className="btn" disabled={!name.trim() || !secret || again !== secret}>
          Begin as the owner
        </button>
      </div>
    </form>
  );
}
