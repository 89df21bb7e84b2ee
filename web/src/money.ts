// Water in money, in the site's currency.
import type { SiteView } from "./api";

/** What some litres cost; nothing where the site has no price. */
export function money(litres: number, site: SiteView["site"]): string | undefined {
  if (site.price_per_m3 == null) return undefined;
  return amount((litres / 1000) * site.price_per_m3, site.currency);
}

/** An amount in a currency. */
export const amount = (value: number, currency: string | null | undefined): string =>
  currency ? new Intl.NumberFormat("en", { style: "currency", currency }).format(value) : value.toFixed(2);
