import { speak } from "./words";

/** How a shop writes: its locale, and whether ounces and degrees Fahrenheit stand beside grams and degrees Celsius. */
export interface Tongue {
  locale: string;
  /** The mark between thousands in this locale, "," or "." */
  group: string;
  decimal: string;
  /** Gallons and fluid ounces are imperial ones. */
  imperial: boolean;
  beside: boolean;
}

/** What the tongue of a shop follows from. */
export interface Speaks {
  locale: string;
  beside?: boolean;
}

export function tongueOf({ locale, beside = false }: Speaks): Tongue {
  const l = locale || "en-GB";
  const decimal = new Intl.NumberFormat(l).formatToParts(1.5).find((p) => p.type === "decimal")?.value ?? ".";
  return { locale: l, decimal, group: decimal === "," ? "." : ",", imperial: !l.endsWith("US"), beside };
}

let current = tongueOf({ locale: "en-GB" });

/** Sets the tongue of the one shop that the page shows; set where the shop is read, before anything of it is drawn. */
export function setTongue(s: Speaks) {
  current = tongueOf(s);
  speak(current.locale);
}

export function tongue(): Tongue {
  return current;
}
