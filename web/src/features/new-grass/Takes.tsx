// What new grass takes: what to buy by area and label, and the work in order of days.
import { useEffect } from "react";
import type { Catalogue, Schemas } from "../../api";
import type { Quantity } from "../../quantities";
import { longDay } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import scroll from "../stress/Stress.module.css";
import classes from "./NewGrass.module.css";
import type { Asked, Method, NewGrassZone, SowingPlan } from "./queries";
import { itemWords, sownName, TASKS } from "./words";

/** What a person says of the area and the labels. */
export type Labels = Pick<
  Asked,
  | "area_m2"
  | "purity_pct"
  | "germination_pct"
  | "nitrogen_pct"
  | "phosphate_pct"
  | "slow_pct"
  | "spacing_mm"
  | "lime_kg_m2"
>;

type Field = { name: keyof Labels; label: string; quantity?: Quantity; unit?: string; range?: string };

const SEEDS: Field[] = [
  { name: "purity_pct", label: "Purity, on the seed label", unit: "%" },
  { name: "germination_pct", label: "Germination, on the seed label", unit: "%" },
];
const FEED: Field[] = [
  { name: "nitrogen_pct", label: "Nitrogen, on the starter’s label", unit: "%" },
  { name: "phosphate_pct", label: "Phosphate, on the starter’s label", unit: "%" },
  { name: "slow_pct", label: "Slow-release share of its nitrogen", unit: "%" },
  { name: "lime_kg_m2", label: "Lime, by your soil test", quantity: "seed_rate" },
];

export const isSeed = (method: Method) =>
  method === "seed" || method === "overseed" || method === "slit_seed" || method === "winter_rye";

const fieldsOf = (method: Method): Field[] => [
  { name: "area_m2", label: "Area", quantity: "area" },
  ...(isSeed(method) ? SEEDS : []),
  ...(method === "plugs"
    ? [
        {
          name: "spacing_mm" as const,
          label: "From plug to plug",
          quantity: "root_depth" as const,
          range: "plug_spacing_mm",
        },
      ]
    : []),
  ...FEED,
];

type Props = {
  zone: NewGrassZone;
  plan: SowingPlan;
  catalogue: Catalogue;
  onLabels: (labels: Labels) => void;
};

export function Takes({ zone, plan, catalogue, onLabels }: Props) {
  const { materials, line } = plan;
  const units = useUnits();
  const figures = useFigures({ ...materials.labels, area_m2: materials.area_m2 });
  const fields = fieldsOf(line.method);
  const problems = Object.fromEntries(
    fields.map((field) => {
      const { name, quantity, range } = field;
      const rule = { required: true, ...(quantity ? { quantity } : {}), ...(range ? { range } : {}) };
      const larger = name === "area_m2" && (figures.si("area_m2", "area") ?? 0) > zone.area_m2 * 1.001;
      return [
        name,
        larger
          ? `${zone.name} is no larger than ${units.show("area", zone.area_m2)}.`
          : figures.problem(name, rule, catalogue),
      ];
    }),
  ) as Record<keyof Labels, string | undefined>;
  const typed = fields.filter(({ name }) => figures.typed(name) && !problems[name]);
  const labels = Object.fromEntries(typed.map(({ name, quantity }) => [name, figures.si(name, quantity)])) as Labels;
  const said = JSON.stringify(labels);
  useEffect(() => onLabels(JSON.parse(said) as Labels), [said, onLabels]);
  return (
    <section aria-label="What it takes">
      <h2>What it takes</h2>
      <div className={classes.takes}>
        <div>
          <h3>To buy</h3>
          <Items items={materials.items} labels={materials.labels} />
          <details className={classes.labels}>
            <summary className={classes.summary}>Area and labels</summary>
            {fields.map(({ name, label, quantity, unit }) => (
              <FigureField
                key={name}
                figures={figures}
                name={name}
                label={label}
                {...(quantity ? { quantity } : {})}
                {...(unit ? { unit } : {})}
                error={problems[name]}
              />
            ))}
          </details>
          <p className="quiet">
            For {units.show("area", materials.area_m2)} of {sownName(line.grass, line.method)}. Lime only where a soil
            test asks for it; phosphate only where local rules allow it.
          </p>
        </div>
        <div>
          <h3>The work, in order</h3>
          <Work tasks={materials.tasks} />
        </div>
      </div>
    </section>
  );
}

function Items({ items, labels }: { items: Schemas["SowingItem"][]; labels: Schemas["SowingLabels"] }) {
  const units = useUnits();
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too
    <section className={scroll.scroll} tabIndex={0} aria-label="Shopping list">
      <table className={scroll.table}>
        <tbody>
          {items.map((item) => {
            const [name, amount, how] = itemWords(item, labels, units);
            return (
              <tr key={item.item}>
                <th scope="row">{name}</th>
                <td className={classes.amount}>{amount}</td>
                <td className="quiet">{how}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function Work({ tasks }: { tasks: Schemas["SowingTaskDay"][] }) {
  const days = [...new Set(tasks.map((task) => task.on))];
  return (
    <ol className={classes.work}>
      {days.map((day) => (
        <li key={day}>
          <strong>{longDay(day)}</strong>
          <ul>
            {tasks
              .filter((task) => task.on === day)
              .map((task) => (
                <li key={task.task}>{TASKS[task.task]}.</li>
              ))}
          </ul>
        </li>
      ))}
    </ol>
  );
}
