// Which column of a foreign file is what, in which unit. Remembered for files of the same heading once one is imported.
import { Button, Group, NativeSelect, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api";
import { catalogueQuery } from "./queries";
import classes from "./SitePage.module.css";

type Mapping = Schemas["Mapping"];
type Figure = Schemas["Figure"];
type Unit = Schemas["Unit"];

const FORMS: { value: Schemas["DateForm"]; label: string }[] = [
  { value: "iso", label: "2026-06-18" },
  { value: "compact", label: "20260618" },
  { value: "month_first", label: "6/18/2026" },
  { value: "day_first", label: "18.6.2026 or 18/6/2026" },
];

const UNITS: Record<Unit, string> = {
  celsius: "°C",
  tenths_celsius: "tenths of °C",
  fahrenheit: "°F",
  percent: "%",
  kpa: "kPa",
  hpa: "hPa",
  mj_m2: "MJ/m² a day",
  w_m2: "W/m², mean of the day",
  hours: "h",
  m_s: "m/s",
  km_h: "km/h",
  mph: "mph",
  knots: "knots",
  mm: "mm",
  tenths_mm: "tenths of mm",
  inch: "in",
};

const FIGURES: Record<Figure, string> = {
  tmin: "Low temperature",
  tmax: "High temperature",
  rain: "Rain",
  wind: "Mean wind",
  rh_min: "Lowest humidity",
  rh_max: "Highest humidity",
  dewpoint: "Dew point",
  vapour_pressure: "Vapour pressure",
  solar: "Solar radiation",
  sunshine: "Sunshine",
  rain_probability: "Chance of rain",
};

type Props = {
  heading: Schemas["Heading"];
  start: Mapping;
  remembered: boolean;
  onChosen: (mapping: Mapping) => void;
};

export function MapColumns({ heading, start, remembered, onChosen }: Props) {
  const catalogue = useQuery(catalogueQuery);
  const [mapping, setMapping] = useState(start);
  const options = heading.columns.map((column, i) => ({
    value: column,
    label: heading.example[i] ? `${column} (such as ${heading.example[i]})` : column,
  }));
  const of = (figure: Figure) => mapping.columns.find((c) => c.figure === figure);
  const set = (figure: Figure, column: string, unit: Unit) =>
    setMapping({
      ...mapping,
      columns: [...mapping.columns.filter((c) => c.figure !== figure), ...(column ? [{ figure, column, unit }] : [])],
    });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onChosen(mapping);
  };
  return (
    <form onSubmit={submit} aria-label="Which column is what">
      <Stack gap="sm">
        <h3>Which column is what?</h3>
        <Text className="quiet">
          {remembered
            ? "Read as the last file with this heading."
            : "This file has columns of its own. A first guess stands here; change what is wrong."}
        </Text>
        <div className={classes.sample}>
          <Text size="sm" className="quiet">
            The file begins:
          </Text>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard */}
          <section tabIndex={0} aria-label="The file's first lines">
            <pre>{[heading.columns.join("  |  "), ...heading.lines].join("\n")}</pre>
          </section>
        </div>
        <div className={classes.fields}>
          <NativeSelect
            label="Date"
            value={mapping.date_column}
            data={options}
            onChange={(e) => setMapping({ ...mapping, date_column: e.currentTarget.value })}
          />
          <NativeSelect
            label="Dates are written"
            value={mapping.date_form}
            data={FORMS}
            onChange={(e) => setMapping({ ...mapping, date_form: e.currentTarget.value as Schemas["DateForm"] })}
          />
        </div>
        {catalogue.data?.weather_figures.map(({ key: figure, units }) => {
          const name = FIGURES[figure];
          const used = of(figure);
          const unit = used?.unit ?? units[0] ?? "mm";
          return (
            <div key={figure} className={classes.fields}>
              <NativeSelect
                label={name}
                value={used?.column ?? ""}
                data={[{ value: "", label: "not in the file" }, ...options]}
                onChange={(e) => set(figure, e.currentTarget.value, unit)}
              />
              {used && (
                <NativeSelect
                  label={`Unit of ${name.toLowerCase()}`}
                  value={unit}
                  data={units.map((u) => ({ value: u, label: UNITS[u] }))}
                  onChange={(e) => set(figure, used.column, e.currentTarget.value as Unit)}
                />
              )}
            </div>
          );
        })}
        <Group>
          <Button type="submit" variant={remembered ? "outline" : "filled"}>
            Read the file like this
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
