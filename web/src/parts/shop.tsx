import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useMemo } from "react";
import { api, type Schemas, take } from "../api/client";
import { setZone, today } from "../places/batches/time";

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
}

const Context = createContext<Formats | null>(null);

export function useShopQuery() {
  return useQuery({ queryKey: ["shop"], queryFn: () => take(api.GET("/shop")), staleTime: 60_000 });
}

export function formats(shop: Shop): Formats {
  const locale = shop.locale || "en-GB";
  const places = (p: number) => new Intl.NumberFormat(locale, { minimumFractionDigits: p, maximumFractionDigits: p });
  const cache = new Map<number, Intl.NumberFormat>();
  const fixed = (p: number) => {
    const have = cache.get(p) ?? places(p);
    cache.set(p, have);
    return have;
  };
  const num = (n: number, p = 0) =>
    fixed(p)
      .formatToParts(n === 0 ? 0 : n)
      .map((x) => (x.type === "group" ? "\u2009" : x.value))
      .join("");
  const dayWithYear = new Intl.DateTimeFormat(locale, { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" });
  const dayPlain = new Intl.DateTimeFormat(locale, { day: "numeric", month: "short", timeZone: "UTC" });
  const clock = new Intl.DateTimeFormat(locale, {
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    timeZone: shop.time_zone,
  });
  const hours = new Intl.DateTimeFormat(locale, { hour: "2-digit", minute: "2-digit", timeZone: shop.time_zone });
  return {
    shop,
    num,
    money: (n, p = 2) => num(n, p),
    day: (d, year = false) => (d ? (year ? dayWithYear : dayPlain).format(new Date(`${d}T00:00:00Z`)) : ""),
    moment: (iso) => (iso ? clock.format(new Date(iso)) : ""),
    kept: (iso) => `${dayWithYear.format(new Date(`${today(new Date(iso))}T00:00:00Z`))}, ${hours.format(new Date(iso))}`,
    clock: (iso) => hours.format(new Date(iso)),
    celsius: (c) => (locale === "en-US" ? `${c} °C (${Math.round(c * 1.8 + 32)} °F)` : `${c} °C`),
  };
}

export function ShopProvider({ shop, children }: { shop: Shop; children: ReactNode }) {
  const value = useMemo(() => {
    setZone(shop.time_zone);
    return formats(shop);
  }, [shop]);
  return <Context value={value}>{children}</Context>;
}

export function useFormats(): Formats {
  const value = useContext(Context);
  if (!value) throw new Error("useFormats outside ShopProvider");
  return value;
}
