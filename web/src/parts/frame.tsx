import { Command } from "cmdk";
import { type ReactNode, useDeferredValue, useEffect, useState } from "react";
import { Link, NavLink, useLocation, useNavigate } from "react-router";
import { problemOf } from "../api/client";
import { actsAs } from "../api/guard";
import { useFoundBatches } from "../api/queries/batches";
import { useFormulas } from "../api/queries/formulas";
import { useFoundLots } from "../api/queries/lots";
import { useIngredients } from "../api/queries/pantry";
import { useSessionQuery } from "../api/queries/people";
import { usePreparations } from "../api/queries/preparations";
import { useNewestRecipes } from "../api/queries/reader";
import { useShopQuery } from "../api/queries/shop";
import { useTodayCount } from "../api/queries/today";
import { HandsDialog, Lock } from "../places/people/Hands";
import SignIn from "../places/people/SignIn";
import SetUp from "../places/shop/SetUp";
import { Strip } from "../saving/Strip";
import { Modal } from "./form";
import { Failed, Loading } from "./marks";
import { MeProvider, meOf, type Session } from "./session";
import { ShopProvider } from "./shop";

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

export function Frame({ children }: { children: ReactNode }) {
  const session = useSessionQuery();
  const name = session.data?.person?.name ?? "";
  useEffect(() => actsAs(name), [name]);
  if (session.isPending) return <Loading what="the door" />;
  if (!session.data) return <Failed message={problemOf(session.error).title} again={() => session.refetch()} />;
  if (!session.data.person) return <SignIn session={session.data} />;
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
  if (shop.isPending) return <Loading what="the shop" />;
  if (shop.isError) return <Failed message={problemOf(shop.error).title} again={() => shop.refetch()} />;
  return (
    <ShopProvider shop={shop.data}>
      {shop.data.set_up && whole ? (
        <div className="h-full">{children}</div>
      ) : shop.data.set_up ? (
        <div className="frame grid h-full grid-cols-[148px_minmax(0,1fr)] max-[760px]:grid-cols-1 max-[760px]:grid-rows-[auto_minmax(0,1fr)]">
          <Spine name={shop.data.name} session={session} />
          <div className="flex min-h-0 min-w-0 flex-col">
            <main className="relative min-h-0 min-w-0 flex-1 overflow-auto">{children}</main>
            <Strip />
          </div>
        </div>
      ) : (
        <SetUp />
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
      className="flex flex-col bg-cobalt-deep pt-[18px] pb-[14px] text-white max-[760px]:flex-row max-[760px]:items-center max-[760px]:overflow-x-auto max-[760px]:py-1"
    >
      <Link to="/today" className="flex items-center gap-[9px] px-4 pb-5 font-title text-[19px] font-semibold max-[760px]:pb-0">
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
            `flex min-h-[37px] items-center justify-between border-l-4 pr-4 pl-[18px] text-[15px] ${isActive || also.some((x) => where.startsWith(x)) ? "border-white bg-white/8 font-semibold text-white" : "border-transparent text-cobalt-pale hover:text-white"}`
          }
        >
          {text}
          {to === "/today" && count > 0 && (
            <span className="ml-2 rounded-[9px] bg-[#f0c75e] px-[7px] py-px text-[12px] font-semibold text-[#2a1e00]">
              <span className="sr-only">things to do: </span>
              {count}
            </span>
          )}
        </NavLink>
      ))}
      <button
        type="button"
        onClick={() => setFinding(true)}
        className="mx-4 mt-4 flex min-h-8 items-center justify-between rounded-[3px] border border-white/30 px-2 text-[13px] text-cobalt-pale hover:text-white max-[760px]:mt-0"
      >
        Find <kbd className="font-text text-[12px]">/</kbd>
      </button>
      <div className="mt-auto border-t border-white/20 px-[18px] pt-3 text-[12.5px] leading-[1.5] text-cobalt-pale max-[760px]:mt-0 max-[760px]:border-0 max-[760px]:pt-0">
        <NavLink to="/shop" className="block min-h-6 truncate hover:text-white" title="Shop settings">
          {name}
        </NavLink>
        <AtTheBench session={session} />
      </div>
      <Finder open={finding} onClose={() => setFinding(false)} />
      <Modal open={keys} onClose={() => setKeys(false)} title="Keys" width={460}>
        <dl className="grid grid-cols-[150px_1fr] gap-y-2 text-[14px]">
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

function Finder({ open, onClose }: { open: boolean; onClose: () => void }) {
  const navigate = useNavigate();
  const where = useLocation();
  const ingredients = useIngredients({ enabled: open });
  const formulas = useFormulas({ enabled: open });
  const [text, setText] = useState("");
  const find = useDeferredValue(text.trim());
  const batches = useFoundBatches(find, open);
  const go = (to: string) => {
    onClose();
    if (where.pathname !== to) navigate(to);
  };
  const lots = useFoundLots(find, open && find !== "");
  const recipes = useNewestRecipes(open);
  const steps = usePreparations({ enabled: open });
  const item = "flex min-h-9 items-center justify-between rounded-[3px] px-2 data-[selected=true]:bg-cobalt-tint";
  return (
    <Modal open={open} onClose={onClose} title="Find" width={560}>
      <Command label="Find anything" loop>
        <Command.Input
          autoFocus
          value={text}
          onValueChange={setText}
          placeholder="Ingredient, formula, batch or lot code"
          className="field"
        />
        <Command.List className="mt-3 h-[340px] overflow-auto">
          <Command.Empty className="p-2 text-ink-2">Nothing by that name.</Command.Empty>
          {/\d/.test(find) && (
            <Command.Item
              value={`${find} follow this code`}
              onSelect={() => go(`/trace?code=${encodeURIComponent(find.trim())}`)}
              className={item}
            >
              Follow {find.trim()} <span className="text-[12.5px] text-ink-3">every lot in it, every jar of it</span>
            </Command.Item>
          )}
          {formulas.data?.map((f) => (
            <Command.Item key={f.id} value={`${f.name} formula ${f.id}`} onSelect={() => go(`/formulas/${f.id}`)} className={item}>
              {f.name} <span className="text-[12.5px] text-ink-3">formula</span>
            </Command.Item>
          ))}
          {batches.data?.batches.map((b) => (
            <Command.Item
              key={b.id}
              value={`${b.code} L${b.code} ${b.formula_name} batch`}
              onSelect={() => go(`/batches/${b.id}`)}
              className={item}
            >
              {b.code}, {b.formula_name} <span className="text-[12.5px] text-ink-3">batch</span>
            </Command.Item>
          ))}
          {find !== "" &&
            lots.data?.lots
              .filter((x) => x.kind !== "batch")
              .map((x) => (
                <Command.Item
                  key={`l${x.id}`}
                  value={`${x.code} ${x.name} ${x.text ?? ""} ${x.supplier ?? ""} lot ${x.id}`}
                  onSelect={() => go(`/lots/${x.id}`)}
                  className={item}
                >
                  {x.code}, {x.name} <span className="text-[12.5px] text-ink-3">lot</span>
                </Command.Item>
              ))}
          {recipes.data?.recipes.map((r) => (
            <Command.Item key={`r${r.id}`} value={`${r.name} recipe words ${r.id}`} onSelect={() => go(`/reader/${r.id}`)} className={item}>
              {r.name} <span className="text-[12.5px] text-ink-3">recipe, as it was said</span>
            </Command.Item>
          ))}
          {steps.data?.map((s) => (
            <Command.Item
              key={s.id}
              value={`${s.input_name} ${s.name.replaceAll("_", " ")} preparation ${s.id}`}
              onSelect={() => go(`/preparations/${encodeURIComponent(s.id)}`)}
              className={item}
            >
              {s.input_name}, {s.name.replaceAll("_", " ")} <span className="text-[12.5px] text-ink-3">preparation</span>
            </Command.Item>
          ))}
          {ingredients.data?.map((g) => (
            <Command.Item key={g.id} value={`${g.name} ingredient ${g.id}`} onSelect={() => go(`/pantry/${g.id}`)} className={item}>
              {g.name} <span className="text-[12.5px] text-ink-3">ingredient</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Modal>
  );
}
