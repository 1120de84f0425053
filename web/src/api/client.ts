import createClient from "openapi-fetch";
import { capital } from "../tongue/words";
import { acting, guarded } from "./guard";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];
export type FieldError = Problem["fields"][number];

export const api = createClient<paths>({ baseUrl: "/api", fetch: (r) => guarded(r) });

/** Keys of requests whose answer has not come yet, by what they ask: the same press twice is one errand. */
const underway = new Map<string, string>();

api.use({
  async onRequest({ request }) {
    if (request.method === "POST") {
      const errand = `${acting()} ${request.url} ${await request.clone().text()}`;
      const key = underway.get(errand) ?? newKey();
      underway.set(errand, key);
      request.headers.set("Idempotency-Key", key);
    }
    return request;
  },
  onResponse({ request, response }) {
    hearClock(response.headers.get("Gallipot-Now"));
    // Answered, whatever the answer: the next press is a new errand. Without an answer the key stays, and trying again is safe.
    const key = request.headers.get("Idempotency-Key");
    if (response.status < 500) for (const [errand, k] of underway) if (k === key) underway.delete(errand);
  },
});

/** How far the server's clock is ahead of this machine's, in ms. */
let ahead = 0;

function hearClock(date: string | null) {
  const at = Date.parse(date ?? "");
  if (Number.isNaN(at)) return;
  const apart = at - Date.now();
  if (Math.abs(apart - ahead) > 1500) ahead = Math.abs(apart) > 2000 ? apart : 0; // the way here is no clock that is wrong
}

/** Now by the server's clock: a tablet's own may be wrong by a day. */
export function serverNow(): Date {
  return new Date(Date.now() + ahead);
}

/** A mistake or a clash, as the server words it. */
export class ProblemError extends Error {
  problem: Problem;
  constructor(problem: Problem) {
    super(problem.title);
    this.problem = problem;
  }
}

const unreachable: Problem = {
  status: 0,
  code: "unreachable",
  title: "Gallipot does not answer. What you typed is kept here; try again.",
  fields: [],
};

/** Unwraps an answer, or throws the problem. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got: { data?: T; error?: unknown; response: Response };
  try {
    got = await call;
  } catch {
    throw new ProblemError(unreachable);
  }
  if (got.response.ok) return got.data as T;
  const p = got.error as Partial<Problem> | undefined;
  throw new ProblemError({ ...unreachable, title: `Gallipot answered ${got.response.status}.`, ...p, fields: p?.fields ?? [] });
}

/** Posts a file, or a form with one, under its key. */
export async function posted(address: string, body: FormData | File, key: string): Promise<unknown> {
  const headers: Record<string, string> = { "Idempotency-Key": key };
  if (body instanceof File) headers["Content-Type"] = "application/json";
  const call = async () => {
    const response = await guarded(address, { method: "POST", body, headers });
    const answer = await response.json().catch(() => undefined);
    return response.ok ? { data: answer, response } : { error: answer, response };
  };
  return take(call());
}

/** Throws what an act was refused for. */
export async function accepted(answer: Promise<Problem | null>): Promise<void> {
  const problem = await answer;
  if (problem) throw new ProblemError(problem);
}

export function problemOf(error: unknown): Problem {
  return error instanceof ProblemError ? error.problem : { ...unreachable, code: "unknown", title: String(error) };
}

/** The message for one field of a problem. A child of the field counts too. */
export function fieldMessage(problem: Problem | null | undefined, ...names: string[]): string {
  const hit = problem?.fields.find((f) => names.some((n) => f.field === n || f.field.startsWith(`${n}.`) || f.field.startsWith(`${n}[`)));
  return hit?.message ?? "";
}

/** What a problem says of its fields beyond its title: nothing is said twice. */
export function besides(p: Problem): string {
  const plain = (s: string) => s.toLowerCase().replace(/[.\s]+$/, "");
  const said = [...new Set(p.fields.map((f) => f.message))].filter((m) => plain(m) !== plain(p.title));
  return said.length > 0 ? `${capital(said.join("; ").replace(/\.+$/, ""))}.` : "";
}

/** A fresh idempotency key for one press of a button. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}
