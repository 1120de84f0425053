import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { Link, NavLink, useLocation } from "react-router";
import { problemOf } from "../api/client";
import { actsAs } from "../api/guard";
import { useSessionQuery } from "../api/queries/people";
import { useShopQuery } from "../api/queries/shop";
import { useTodayCount } from "../api/queries/today";
import { HandsDialog, Lock } from "../places/people/Hands";
import { Strip } from "../saving/Strip";
import { Modal } from "./form";
import { later } from "./later";
import { Failed, Loading } from "./marks";
import { MeProvider, meOf, type Session } from "./session";
import { ShopProvider } from "./shop";

const SignIn = later(() => import("../places/people/SignIn"));
const SetUp = later(() => import("../places/shop/SetUp"));
const Finder = later(() => import("./finder"));

/** The places in the order of work, with the screens that belong to them under other addresses. */
const PLACES: [to: string, text: string, also: string[]][] = [
  ["/today", "Today", []],
  ["/pantry", "Pantry", ["/preparations", "/stock", "/lots", "/allergens"]],
  ["/formulas", "Formulas", ["/reader"]],
  ["/batches", "Batches", ["/jars", "/plan", "/devices"]],
  ["/keeping", "Keeping", []],
  ["/labels", "Labels", []],
  ["/records", "Records", ["/trace", "/recalls"]],
];

/** Screens that take the whole window. */
const WHOLE = /^\/(bench|rehearse)\//;

/** Keys that work everywhere, and those of single screens. */
const KEYS: [string, string][] = [
  ["/", "find an ingredient, formula, batch or lot code"],
  ["?", "this list"],
  ["Enter, arrows, Tab", "move in a table; Enter goes down"],
  ["+", "in a lot on the weigh sheet: one more lot for the line"],
  ["Ctrl + Enter", "take a delivery in"],
  ["Alt + ↑ or ↓", "move a line of a formula"],
  ["Ctrl + Z", "undo on a sheet"],
  ["Ctrl + Shift + Z", "do it again"],
  ["Esc", "close what is open"],
];

const Courier = lazy(() => import("../saving/outboxes").then((m) => ({ default: m.Courier })));

/** Whether acts of the bench wait in this browser. */
const waits = () => Object.keys(localStorage).some((k) => k.startsWith("outbox "));

export function Frame({ children }: { children: ReactNode }) {
  const session = useSessionQuery();
  const name = session.data?.person?.name ?? "";
  useEffect(() => actsAs(name), [name]);
  if (session.isPending) return <Loading what="the door" />;
  if (!session.data) return <Failed message={problemOf(session.error).title} again={() => session.refetch()} />;
  if (!session.data.person)
    return (
      <Suspense fallback={<Loading what="the door" />}>
        <SignIn session={session.data} />
      </Suspense>
    );
  return (
    <MeProvider value={meOf(session.data)}>
      <Inside session={session.data}>{children}</Inside>
      <Lock session={session.data} />
    </MeProvider>
  );
}

function Inside({ session, children }: { session: Session; children: ReactNode }) {
  const shop = useShopQuery();
  const whole = WHOLE.test(useLocation().pathname);
  const [kept] = useState(waits);
  if (shop.isPending) return <Loading what="the shop" />;
  if (shop.isError) return <Failed message={problemOf(shop.error).title} again={() => shop.refetch()} />;
  return (
    <ShopProvider shop={shop.data}>
      {kept && (
        <Suspense fallback={null}>
          <Courier />
        </Suspense>
      )}
      {shop.data.set_up && whole ? (
        <div className="h-full">{children}</div>
      ) : shop.data.set_up ? (
        <div className="frame grid h-full grid-cols-[148px_minmax(0,1fr)] max-tablet:grid-cols-1 max-tablet:grid-rows-[auto_minmax(0,1fr)]">
          <Spine name={shop.data.name} session={session} />
          <div className="flex min-h-0 min-w-0 flex-col">
            <main className="relative min-h-0 min-w-0 flex-1 overflow-auto">{children}</main>
            <Strip />
          </div>
        </div>
      ) : (
        <Suspense fallback={<Loading what="the shop" />}>
          <SetUp />
        </Suspense>
      )}
    </ShopProvider>
  );
}

function Spine({ name, session }: { name: string; session: Session }) {
  const today = useTodayCount();
  const where = useLocation().pathname;
  const [finding, setFinding] = useState(false);
  const [keys, setKeys] = useState(false);
  const count = today.data?.tasks.length ?? 0;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      const typing = t.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName);
      if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === "/") {
        e.preventDefault();
        setFinding(true);
      }
      if (e.key === "?") {
        e.preventDefault();
        setKeys(true);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <nav
      aria-label="Places"
      className="flex flex-col bg-cobalt-deep pt-4.5 pb-3.5 text-white max-tablet:flex-row max-tablet:items-center max-tablet:overflow-x-auto max-tablet:py-1"
    >
      <Link to="/today" className="flex items-center gap-2.5 px-4 pb-5 font-title text-title font-semibold max-tablet:pb-0">
        <svg width="24" height="28" viewBox="0 0 24 28" aria-hidden="true">
          <path d="M5 4h14v3c3 2 4 5 4 9 0 6-3 10-11 10S1 22 1 16c0-4 1-7 4-9z" fill="#fff" />
          <path d="M3 2h18v3H3z" fill="#c9d5f2" />
          <path d="M5 13q3.500-3 7 0t7 0M6 19q3-2.500 6 0t6 0" fill="none" stroke="#1f3f93" strokeWidth="1.700" />
        </svg>
        Gallipot
      </Link>
      {PLACES.map(([to, text, also]) => (
        <NavLink
          key={to}
          to={to}
          className={({ isActive }) =>
            `flex min-h-9.25 items-center justify-between border-l-4 pr-4 pl-4.5 text-lead ${isActive || also.some((x) => where.startsWith(x)) ? "border-white bg-white/8 font-semibold text-white" : "border-transparent text-cobalt-pale hover:text-white"}`
          }
        >
          {text}
          {to === "/today" && count > 0 && (
            <span className="ml-2 rounded-full bg-count px-2 py-px text-note font-semibold text-count-ink">
              <span className="sr-only">things to do: </span>
              {count}
            </span>
          )}
        </NavLink>
      ))}
      <button
        type="button"
        onClick={() => setFinding(true)}
        className="mx-4 mt-4 flex min-h-8 items-center justify-between rounded-sm border border-white/30 px-2 text-note text-cobalt-pale hover:text-white max-tablet:mt-0"
      >
        Find <kbd className="font-text text-note">/</kbd>
      </button>
      <div className="mt-auto border-t border-white/20 px-4.5 pt-3 text-note leading-loose text-cobalt-pale max-tablet:mt-0 max-tablet:border-0 max-tablet:pt-0">
        <NavLink to="/shop" className="block min-h-6 truncate hover:text-white" title="Shop settings">
          {name}
        </NavLink>
        <AtTheBench session={session} />
      </div>
      {finding && (
        <Suspense>
          <Finder onClose={() => setFinding(false)} />
        </Suspense>
      )}
      <Modal open={keys} onClose={() => setKeys(false)} title="Keys" width={460}>
        <dl className="grid grid-cols-[150px_1fr] gap-y-2 text-body">
          {KEYS.map(([k, what]) => (
            <div key={k} className="contents">
              <dt className="font-semibold">{k}</dt>
              <dd className="text-ink-2">{what}</dd>
            </div>
          ))}
        </dl>
      </Modal>
    </nav>
  );
}

/** Who is at the bench: every act carries the name. One tap and a PIN change hands. */
function AtTheBench({ session }: { session: Session }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" onClick={() => setOpen(true)} className="block min-h-6 max-w-full truncate text-left hover:text-white">
        {session.person?.name}, {session.person?.role}
        <span className="sr-only">: change hands</span>
      </button>
      <HandsDialog session={session} open={open} onClose={() => setOpen(false)} />
    </>
  );
}
