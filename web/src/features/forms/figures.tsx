// Typed figures of a form. Each keeps the units that it was typed in until it is sent: switching units converts what is shown, never what is
// meant. What nobody touched keeps its stored value to the last digit.
import { Button, Group, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Catalogue } from "../../api";
import { print, readNumber, sameUnit } from "../../numbers";
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
  /** What a judgement of it rests on: when this changes, what was said of it is old. */
  raw: (name: string) => string;
  /** Whether somebody typed in the field. */
  typed: (name: string) => boolean;
  /** What is wrong with it, or to be asked, in the reader's units; nothing if it holds. */
  problem: (name: string, rule: Rule, catalogue: Catalogue) => string | undefined;
  /** What may be answered where a figure is asked about: what stands in the field then. */
  answers: (name: string, quantity?: Quantity) => { label: string; take: () => void }[];
  /** A person types. */
  type: (name: string, text: string) => void;
  /** The program fills in a stored value, or a usual one by units; nothing empties the field. */
  fill: (figures: Record<string, number | Record<System, string> | null | undefined>) => void;
};

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

/** Quantities of which ten times as much says nothing. */
const NO_RATIO: Quantity[] = ["temperature", "elevation"];

/** How many times more or less than before is asked about: a digit slipped, or a comma. */
const JUMP = 10;

/** The figures of a form. `stored`: what it begins with is a fact on record, and not a proposal; then a jump against it is asked about. */
export function useFigures(initial: Parameters<Figures["fill"]>[0], { stored = false } = {}): Figures {
  const units = useUnits();
  const [known, setKnown] = useState(() => entries(initial));
  // What stood there when the form was opened, and what of the new was asked about and is so.
  const [stood] = useState(() => initial);
  const [sure, setSure] = useState<Record<string, string>>({});

  const typedIn = (entry: Entry | undefined): { text: string; system: System } | undefined => {
    if (!entry || "si" in entry) return undefined;
    return "usual" in entry ? { text: entry.usual[units.system], system: units.system } : entry;
  };
  /** What is typed in a field, read as a number. */
  const read = (name: string, quantity?: Quantity) => {
    const typed = typedIn(known[name]);
    const found = typed && readNumber(typed.text);
    if (!typed || !found) return undefined;
    const shown = shownIn(typed.system);
    const otherUnit = quantity && found.unit !== undefined && !sameUnit(found.unit, shown.label(quantity));
    const inSi = (x: number) => (quantity ? shown.toSi(quantity, x) : x);
    return { ...found, ...typed, otherUnit, inSi };
  };
  const si: Figures["si"] = (name, quantity) => {
    const entry = known[name];
    if (entry && "si" in entry) return entry.si;
    const typed = read(name, quantity);
    return typed && !typed.otherUnit ? typed.inSi(typed.value) : undefined;
  };
  const text: Figures["text"] = (name, quantity) => {
    const typed = typedIn(known[name]);
    // As it was typed, while it is shown in the units that it was typed in; and what is no number, to be corrected.
    if (typed && (!quantity || typed.system === units.system || si(name, quantity) === undefined)) return typed.text;
    const value = si(name, quantity);
    if (value === undefined) return "";
    return quantity ? units.inField(quantity, value) : String(value);
  };
  /** Ten times what stood there, or a tenth of it: the figure that stood. */
  const jump = (name: string, quantity?: Quantity): number | undefined => {
    const before = stood[name];
    const typed = read(name, quantity);
    if (!stored || typeof before !== "number" || before <= 0 || !typed || sure[name] === typed.text) return undefined;
    if (quantity && NO_RATIO.includes(quantity)) return undefined;
    const times = typed.inSi(typed.value) / before;
    return times >= JUMP || (times > 0 && times <= 1 / JUMP) ? before : undefined;
  };
  const type: Figures["type"] = (name, typed) =>
    setKnown((k) => ({ ...k, [name]: { text: typed, system: units.system } }));
  const shownAs = (quantity: Quantity | undefined, x: number) => (quantity ? units.show(quantity, x) : print(x));
  return {
    text,
    si,
    type,
    raw: (name) => JSON.stringify([known[name] ?? null, sure[name] ?? null]),
    typed: (name) => {
      const entry = known[name];
      return entry !== undefined && "text" in entry;
    },
    problem: (name, rule, catalogue) => {
      const { quantity } = rule;
      const shown = text(name, quantity).trim();
      if (shown === "") return rule.required ? "Fill this in." : undefined;
      const range = catalogue.ranges.find((r) => r.name === (rule.range ?? name));
      const unit = quantity ? units.label(quantity) : range?.unit;
      const typed = read(name, quantity);
      if (typed?.otherUnit || (typed?.unit !== undefined && !sameUnit(typed.unit, unit)))
        return unit ? `Give it in ${unit}.` : `“${shown}” is not a number.`;
      const value = si(name, quantity);
      if (value === undefined) return `“${shown}” is not a number.`;
      const within = (x: number) => !range || (x >= range.min && x <= range.max);
      if (typed?.also !== undefined && (within(typed.inSi(typed.also)) || !within(value)))
        return `Does “${shown}” mean ${print(typed.value, 7)} or ${print(typed.also, 7)}?`;
      if (range && !within(value)) {
        const limit = (x: number) => print(quantity ? Number(units.inField(quantity, x)) : x);
        return `Between ${limit(range.min)} and ${limit(range.max)}${unit ? ` ${unit}` : ""}.`;
      }
      const before = jump(name, quantity);
      return before === undefined ? undefined : `It was ${shownAs(quantity, before)} before: is ${shown} right?`;
    },
    answers: (name, quantity) => {
      const typed = read(name, quantity);
      if (!typed) return [];
      if (typed.also !== undefined)
        return [typed.value, typed.also].map((x) => ({ label: print(x, 7), take: () => type(name, String(x)) }));
      if (jump(name, quantity) === undefined) return [];
      return [{ label: "Yes, it is so", take: () => setSure((s) => ({ ...s, [name]: typed.text })) }];
    },
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
  const change = (text: string) => {
    figures.type(name, text);
    onType?.();
  };
  const answers = error ? figures.answers(name, quantity) : [];
  return (
    <div>
      <TextInput
        label={shownUnit ? `${label}, ${shownUnit}` : label}
        description={description}
        inputMode="decimal"
        autoComplete="off"
        withAsterisk={required ?? false}
        value={figures.text(name, quantity)}
        error={error}
        onChange={(e) => change(e.currentTarget.value)}
      />
      {answers.length > 0 && (
        <Group gap="xs" mt={4}>
          {answers.map((answer) => (
            <Button
              key={answer.label}
              size="compact-sm"
              variant="outline"
              onClick={() => {
                answer.take();
                onType?.();
              }}
            >
              {answer.label}
            </Button>
          ))}
        </Group>
      )}
    </div>
  );
}
