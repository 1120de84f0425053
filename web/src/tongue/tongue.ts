import { speak } from "./words";

/** How a shop writes: its locale, and whether ounces and degrees Fahrenheit stand beside grams and degrees Celsius. */
export interface Tongue {
  locale: string;
  /** The mark between thousands in this locale, "," or "." */
  group: string;
  decimal: string;
  /** Whose gallon, pint and fluid ounce are meant. */
  gallon: "us" | "imperial";
  /** The list of words that is read. */
  english: string;
  beside: boolean;
}

/** What the tongue of a shop follows from. */
export interface Speaks {
  locale: string;
  beside?: boolean;
  gallon?: "us" | "imperial";
  english?: string;
}

export function tongueOf({ locale, beside = false, gallon = "imperial", english = "en-GB" }: Speaks): Tongue {
  const l = locale || "en-GB";
  const decimal = new Intl.NumberFormat(l).formatToParts(1.5).find((p) => p.type === "decimal")?.value ?? ".";
  return { locale: l, decimal, group: decimal === "," ? "." : ",", gallon, english, beside };
}

let current = tongueOf({ locale: "en-GB" });

/** Sets the tongue of the one shop that the page shows; set where the shop is read, before anything of it is drawn. */
export function setTongue(s: Speaks) {
  current = tongueOf(s);
  speak(current.english);
}

export function tongue(): Tongue {
  return current;
}
