// Typed figures: parsed, checked against the server's ranges, and worded in the reader's units.
import type { Catalogue } from "../../api";
import type { Quantity, Units } from "../../units";

/** A typed number; a decimal comma is understood. */
export function parse(text: string): number | undefined {
  const cleaned = text.trim().replace(/\s/g, "").replace(",", ".");
  if (cleaned === "" || !/^[-+]?(\d+\.?\d*|\.\d+)$/.test(cleaned)) return undefined;
  return Number(cleaned);
}

type Rule = { name: string; quantity?: Quantity; required?: boolean };

/** What is wrong with a typed figure, in the reader's units; nothing if it holds. */
export function problem(text: string, rule: Rule, catalogue: Catalogue, units: Units): string | undefined {
  if (text.trim() === "") return rule.required ? "Fill this in." : undefined;
  const typed = parse(text);
  if (typed === undefined) return `“${text.trim()}” is not a number.`;
  const range = catalogue.ranges.find((r) => r.name === rule.name);
  if (!range) return undefined;
  const si = rule.quantity ? units.toSi(rule.quantity, typed) : typed;
  if (si >= range.min && si <= range.max) return undefined;
  const limit = (x: number) => (rule.quantity ? units.toField(rule.quantity, x) : String(x));
  const unit = rule.quantity ? units.label(rule.quantity) : range.unit;
  return `Between ${limit(range.min)} and ${limit(range.max)}${unit ? ` ${unit}` : ""}.`;
}

/** A typed figure as it is stored; undefined where nothing was typed. */
export function stored(text: string, quantity: Quantity | undefined, units: Units): number | undefined {
  const typed = parse(text);
  if (typed === undefined) return undefined;
  return quantity ? units.toSi(quantity, typed) : typed;
}
