// Figures of a test under way, kept as they are typed.
import { useEffect } from "react";
import type { Catalogue } from "../../api";
import type { Quantity } from "../../quantities";
import { FigureField, useFigures } from "../forms/figures";

export type NotedField = {
  name: string;
  label: string;
  /** The range of the catalogue that holds for it. */
  range: string;
  quantity?: Quantity;
  unit?: string;
  description?: string;
};

type Props = {
  fields: NotedField[];
  catalogue: Catalogue;
  noted: Record<string, unknown>;
  note: (noted: Record<string, unknown>) => void;
  problem: (field: string) => string | undefined;
};

/** Fields whose values are noted as they hold; what does not hold says so and is not noted. They begin with what is noted: what fills them in from
 * outside gives them another key. */
export function NotedFields({ fields, catalogue, noted, note, problem }: Props) {
  const figures = useFigures(
    Object.fromEntries(
      fields.map((f) => [f.name, typeof noted[f.name] === "number" ? (noted[f.name] as number) : null]),
    ),
  );
  const wrong = (f: NotedField) =>
    figures.problem(f.name, { range: f.range, ...(f.quantity ? { quantity: f.quantity } : {}) }, catalogue);
  const holds = Object.fromEntries(fields.map((f) => [f.name, wrong(f) ? undefined : figures.si(f.name, f.quantity)]));
  const typed = JSON.stringify(fields.map((f) => holds[f.name] ?? null));
  // biome-ignore lint/correctness/useExhaustiveDependencies: noted whenever a figure is another
  useEffect(() => {
    if (fields.some((f) => holds[f.name] !== noted[f.name])) note(holds);
  }, [typed]);
  return (
    <>
      {fields.map((f) => (
        <FigureField
          key={f.name}
          figures={figures}
          name={f.name}
          label={f.label}
          {...(f.quantity ? { quantity: f.quantity } : {})}
          {...(f.unit ? { unit: f.unit } : {})}
          description={f.description}
          error={wrong(f) ?? problem(f.name)}
        />
      ))}
    </>
  );
}
