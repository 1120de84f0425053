import { createContext, type ReactNode, useContext, useMemo } from "react";
import type { Schemas } from "../api/client";
import { setZone, today } from "../tongue/clock";
import { beside, type Measure } from "../tongue/quantity";
import { setTongue, type Tongue, tongueOf } from "../tongue/tongue";

type Shop = Schemas["ShopView"];

interface Formats {
  shop: Shop;
  /** Money with two places and no symbol: the sheet says the currency once. */
  money: (n: number, places?: number) => string;
  /** A number with fixed places and thin groups. */
  num: (n: number, places?: number) => string;
  /** A calendar day, 2026-11-25, in words. */
  day: (d: string, year?: boolean) => string;
  /** A moment in words. */
  moment: (iso: string) => string;
  /** A moment in words, with its year: for what is kept. */
  kept: (iso: string) => string;
  /** The time of day of a moment. */
  clock: (iso: string) => string;
  celsius: (c: number) => string;
  /** The same in ounces, inches or °F, where the shop wants them beside; else empty. */
  beside: (n: number | null | undefined, measure: Measure) => string;
  tongue: Tongue;
}

const Context = createContext<Formats | null>(null);

export function formats(shop: Shop): Formats {
  const locale = shop.locale || "en-GB";
  const own = tongueOf(shop);
  const places = (p: number) => new Intl.NumberFormat(locale, { minimumFractionDigits: p, maximumFractionDigits: p });
  const cache = new Map<number, Intl.NumberFormat>();
  const fixed = (p: number) => {
    const have = cache.get(p) ?? places(p);
    cache.set(p, have);
    return have;
  };
  const num = (n: number, p = 0) =>
    fixed(p)
      .formatToParts(Number(n.toFixed(Math.min(p, 20))) === 0 ? 0 : n) // what is shown as nothing has no sign
      .map((x) => (x.type === "group" ? "\u2009" : x.value))
      .join("");
  const dayWithYear = new Intl.DateTimeFormat(locale, { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });
  const dayPlain = new Intl.DateTimeFormat(locale, { day: "numeric", month: "short", timeZone: "UTC" });
  const hours = new Intl.DateTimeFormat(locale, { hour: "numeric", minute: "2-digit", timeZone: shop.time_zone });
  const time = (iso: string) => hours.format(new Date(iso)).replace(/\u202f/g, " ");
  const dayOf = (iso: string) => new Date(`${today(new Date(iso))}T00:00:00Z`);
  return {
    shop,
    num,
    money: (n, p = 2) => num(n, p),
    day: (d, year = false) => (d ? (year ? dayWithYear : dayPlain).format(new Date(`${d}T00:00:00Z`)) : ""),
    moment: (iso) => (iso ? `${dayPlain.format(dayOf(iso))}, ${time(iso)}` : ""),
    kept: (iso) => `${dayWithYear.format(dayOf(iso))}, ${time(iso)}`,
    clock: time,
    celsius: (c) => {
      const other = beside(c, "temperature", own);
      return `${num(c, Number.isInteger(c) ? 0 : 1)} °C${other && ` (${other})`}`;
    },
    beside: (n, measure) => beside(n, measure, own),
    tongue: own,
  };
}

export function ShopProvider({ shop, children }: { shop: Shop; children: ReactNode }) {
  const value = useMemo(() => {
    setZone(shop.time_zone);
    setTongue(shop);
    return formats(shop);
  }, [shop]);
  return <Context value={value}>{children}</Context>;
}

export function useFormats(): Formats {
  const value = useContext(Context);
  if (!value) throw new Error("useFormats outside ShopProvider");
  return value;
}
