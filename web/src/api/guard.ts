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

/** Says whose name the screen shows. Every act carries it, so that a change of hands in another tab is noticed. */
export function actsAs(name: string) {
  hands = name;
}

const ownWay = ["/api/session", "/api/people/first"];

/**
 * fetch that asks for the PIN where the server does, and then sends the same request again: what was typed is not lost.
 * Requests that meet the question together wait for one answer.
 */
export async function guarded(input: Request | string, init?: RequestInit): Promise<Response> {
  const request = new Request(input, init);
  if (hands && request.method !== "GET") request.headers.set("Gallipot-Person", encodeURIComponent(hands));
  const again = request.clone();
  const answer = await fetch(request);
  if (answer.status !== 401 || !asking || ownWay.includes(new URL(request.url).pathname)) return answer;
  const told = (await answer
    .clone()
    .json()
    .catch(() => ({}))) as { code?: string; title?: string };
  open ??= asking(told.code ?? "sign_in", told.title ?? "").finally(() => {
    open = null;
  });
  return (await open) ? fetch(again) : answer;
}
