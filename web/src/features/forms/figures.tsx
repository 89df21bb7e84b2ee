// Typed figures of a form. Each keeps the units that it was typed in until it is sent: switching units converts what is shown, never what is
// meant. What nobody touched keeps its stored value to the last digit.
import { TextInput } from "@mantine/core";
import { useState } from "react";
import type { Catalogue } from "../../api";
import { type Quantity, type System, shownIn } from "../../quantities";
import { useUnits } from "../../units";

/** A figure of a form: stored or worked out, typed in some units, or a usual one of each system of units. */
type Entry = { si: number } | { text: string; system: System } | { usual: Record<System, string> };

/** What a figure must be: the range of the catalogue that holds for it, and its quantity. */
export type Rule = { range?: string; quantity?: Quantity; required?: boolean };

export type Figures = {
  /** As it stands in the field. */
  text: (name: string, quantity?: Quantity) => string;
  /** As it is stored; undefined where nothing is typed, or no number. */
  si: (name: string, quantity?: Quantity) => number | undefined;
  /** Whether somebody typed in the field. */
  typed: (name: string) => boolean;
  /** What is wrong with it, in the reader's units; nothing if it holds. */
  problem: (name: string, rule: Rule, catalogue: Catalogue) => string | undefined;
  /** A person types. */
  type: (name: string, text: string) => void;
  /** The program fills in a stored value, or a usual one by units; nothing empties the field. */
  fill: (figures: Record<string, number | Record<System, string> | null | undefined>) => void;
};

/** A typed number; a decimal comma is understood. */
export function parse(text: string): number | undefined {
  const cleaned = text.trim().replace(/\s/g, "").replace(",", ".");
  if (cleaned === "" || !/^[-+]?(\d+\.?\d*|\.\d+)$/.test(cleaned)) return undefined;
  return Number(cleaned);
}

const entries = (figures: Parameters<Figures["fill"]>[0]): Record<string, Entry | undefined> =>
  Object.fromEntries(
    Object.entries(figures).map(([name, value]) => [
      name,
      value == null ? undefined : typeof value === "number" ? { si: value } : { usual: value },
    ]),
  );

/** A round figure near a stored one, in each system of units. */
export const rounded = (quantity: Quantity, si: number): Record<System, string> => ({
  metric: String(Math.round(Number(shownIn("metric").toField(quantity, si)))),
  us: String(Math.round(Number(shownIn("us").toField(quantity, si)))),
});

export function useFigures(initial: Parameters<Figures["fill"]>[0]): Figures {
  const units = useUnits();
  const [known, setKnown] = useState(() => entries(initial));

  const typedIn = (entry: Entry | undefined): { text: string; system: System } | undefined => {
    if (!entry || "si" in entry) return undefined;
    return "usual" in entry ? { text: entry.usual[units.system], system: units.system } : entry;
  };
  const si: Figures["si"] = (name, quantity) => {
    const entry = known[name];
    if (entry && "si" in entry) return entry.si;
    const typed = typedIn(entry);
    const value = typed && parse(typed.text);
    if (value === undefined) return undefined;
    return quantity ? shownIn(typed?.system ?? units.system).toSi(quantity, value) : value;
  };
  const text: Figures["text"] = (name, quantity) => {
    const typed = typedIn(known[name]);
    // As it was typed, while it is shown in the units that it was typed in; and what is no number, to be corrected.
    if (typed && (!quantity || typed.system === units.system || parse(typed.text) === undefined)) return typed.text;
    const value = si(name, quantity);
    if (value === undefined) return "";
    return quantity ? units.toField(quantity, value) : String(value);
  };
  return {
    text,
    si,
    typed: (name) => {
      const entry = known[name];
      return entry !== undefined && "text" in entry;
    },
    problem: (name, rule, catalogue) => {
      const shown = text(name, rule.quantity).trim();
      if (shown === "") return rule.required ? "Fill this in." : undefined;
      const value = si(name, rule.quantity);
      if (value === undefined) return `“${shown}” is not a number.`;
      const range = catalogue.ranges.find((r) => r.name === (rule.range ?? name));
      if (!range || (value >= range.min && value <= range.max)) return undefined;
      const limit = (x: number) => (rule.quantity ? units.toField(rule.quantity, x) : String(x));
      const unit = rule.quantity ? units.label(rule.quantity) : range.unit;
      return `Between ${limit(range.min)} and ${limit(range.max)}${unit ? ` ${unit}` : ""}.`;
    },
    type: (name, typed) => setKnown((k) => ({ ...k, [name]: { text: typed, system: units.system } })),
    fill: (figures) => setKnown((k) => ({ ...k, ...entries(figures) })),
  };
}

type FieldProps = {
  figures: Figures;
  name: string;
  label: string;
  quantity?: Quantity;
  /** The unit of a figure that is no quantity of ours. */
  unit?: string;
  description?: string | undefined;
  error?: string | undefined;
  required?: boolean;
  /** What else follows when it is typed. */
  onType?: () => void;
};

export function FigureField({
  figures,
  name,
  label,
  quantity,
  unit,
  description,
  error,
  required,
  onType,
}: FieldProps) {
  const units = useUnits();
  const shownUnit = quantity ? units.label(quantity) : unit;
  return (
    <TextInput
      label={shownUnit ? `${label}, ${shownUnit}` : label}
      description={description}
      inputMode="decimal"
      autoComplete="off"
      withAsterisk={required ?? false}
      value={figures.text(name, quantity)}
      error={error}
      onChange={(e) => {
        figures.type(name, e.currentTarget.value);
        onType?.();
      }}
    />
  );
}
