/** Somebody asks who is at the bench; resolves to whether the act goes on as who made it. */
type Asking = (code: string, message: string) => Promise<boolean>;

let asking: Asking | null = null;
let open: Promise<boolean> | null = null;

/** Lets a dialog answer when the server asks who it is. Returns how to take that back. */
export function answerWith(ask: Asking): () => void {
  asking = ask;
  return () => {
    if (asking === ask) asking = null;
  };
}

let hands = "";
const listeners = new Set<() => void>();

/** Says whose name the screen shows. Every act carries it, so that a change of hands in another tab is noticed. */
export function actsAs(name: string) {
  if (hands === name) return;
  hands = name;
  for (const l of listeners) l();
}

/** Whose name the screen shows; empty: nobody's. */
export const acting = () => hands;

/** Tells of every change of hands. Returns how to take that back. */
export function onHands(l: () => void): () => void {
  listeners.add(l);
  return () => {
    listeners.delete(l);
  };
}

const PERSON = "Gallipot-Person";

/** Whose act a request is, where it is not that of who is here now. */
export const ofPerson = (name: string) => ({ [PERSON]: encodeURIComponent(name) });

const ownWay = ["/api/session", "/api/people/first"];

/**
 * fetch that asks for the PIN where the server does, and then sends the same request again: what was typed is not lost.
 * Requests that meet the question together wait for one answer.
 */
export async function guarded(input: Request | string, init?: RequestInit): Promise<Response> {
  const request = new Request(input, init);
  const waited = request.headers.has(PERSON);
  if (hands && !waited && request.method !== "GET") request.headers.set(PERSON, encodeURIComponent(hands));
  const again = request.clone();
  const answer = await fetch(request);
  if (answer.status !== 401 || !asking || ownWay.includes(new URL(request.url).pathname)) return answer;
  const told = (await answer
    .clone()
    .json()
    .catch(() => ({}))) as { code?: string; title?: string };
  if (waited && told.code === "other_hands") return answer; // it waits for its person
  open ??= asking(told.code ?? "sign_in", told.title ?? "").finally(() => {
    open = null;
  });
  return (await open) ? fetch(again) : answer;
}
