// What opens the valves, and the tank or well behind: what a plan must keep to.
import { Checkbox, Group, NativeSelect } from "@mantine/core";
import type { Schemas, SiteView } from "../../api";
import type { Quantity } from "../../quantities";
import { FigureField, type Figures } from "../forms/figures";
import classes from "./SitePage.module.css";

type Pattern = Schemas["DayPattern"];

export const PATTERNS: { value: Pattern; label: string }[] = [
  { value: "weekdays", label: "Days of the week" },
  { value: "odd_even", label: "Odd or even dates" },
  { value: "every_nth", label: "Every n-th day" },
];

type Field = { name: string; label: string; range?: string; quantity?: Quantity; unit?: string; description?: string };

export const STORE_FIELDS: Field[] = [
  { name: "holds_l", label: "What it holds", quantity: "volume" },
  { name: "refill_l_min", label: "What runs back in", quantity: "flow" },
];

export const CONTROLLER_FIELDS: Field[] = [
  { name: "longest_run_min", label: "Longest run, min" },
  { name: "programmes", label: "Programmes" },
  { name: "starts", label: "Starts of a programme", description: "most passes of a zone a night" },
  { name: "seasonal_adjust_pct", label: "Seasonal adjust, %", description: "as it stands on it; empty: 100" },
];

/** Figures of the controller and the store as they are stored. */
export const suppliedFigures = (view: SiteView) => ({
  holds_l: view.supply.store?.holds_l,
  refill_l_min: view.supply.store?.refill_l_min,
  longest_run_min: view.controller.longest_run_min,
  programmes: view.controller.programmes,
  starts: view.controller.starts,
  seasonal_adjust_pct: view.controller.seasonal_adjust_pct,
});

type Props = {
  figures: Figures;
  errors: Record<string, string | undefined>;
  step: string;
  onStep: (step: string) => void;
  patterns: Pattern[];
  onPatterns: (patterns: Pattern[]) => void;
};

export function Controller({ figures, errors, step, onStep, patterns, onPatterns }: Props) {
  return (
    <>
      <h2>Controller</h2>
      <div className={classes.fields}>
        {CONTROLLER_FIELDS.map((f) => (
          <FigureField key={f.name} figures={figures} {...f} error={errors[f.name]} />
        ))}
        <NativeSelect
          label="Step of its clock"
          value={step}
          onChange={(e) => onStep(e.currentTarget.value)}
          data={[
            { value: "60", label: "1 minute" },
            { value: "30", label: "30 seconds" },
            { value: "1", label: "1 second" },
          ]}
        />
      </div>
      <Checkbox.Group
        label="Days that its programmes can be told"
        description="none: any"
        value={patterns}
        onChange={(chosen) => onPatterns(PATTERNS.map((p) => p.value).filter((p) => chosen.includes(p)))}
      >
        <Group mt={6} gap="sm">
          {PATTERNS.map((p) => (
            <Checkbox key={p.value} value={p.value} label={p.label} />
          ))}
        </Group>
      </Checkbox.Group>
    </>
  );
}

export function Store({ figures, errors }: Pick<Props, "figures" | "errors">) {
  return (
    <fieldset className={classes.group}>
      <legend>A tank, or a well that recovers slowly (empty: water never runs out)</legend>
      <div className={classes.fields}>
        {STORE_FIELDS.map((f) => (
          <FigureField key={f.name} figures={figures} {...f} error={errors[f.name]} />
        ))}
      </div>
    </fieldset>
  );
}
