import { Button, Group, NativeSelect, Stack, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";
import { notifications } from "@mantine/notifications";
import { ApiFailure, type Catalogue, type Zone, type ZoneView } from "../../api";
import { type Quantity, type Units, useUnits } from "../../units";
import { Refused } from "../shell/States";
import { parse, problem, stored } from "./fields";
import { useSaveZone } from "./queries";
import classes from "./SitePage.module.css";

type Values = {
  name: string;
  grass: string;
  how_green: string;
  regime: string;
  soil: string;
  exposure: string;
  sprinkler: string;
  slope_pct: string;
  area_m2: string;
  rate_mm_h: string;
  evenness_du_lq: string;
  root_depth_mm: string;
  minutes_to_runoff: string;
  allowable_depletion: string;
  initial_depletion_mm: string;
  deep_and_seldom_mm: string;
  active_from: string;
  priority: string;
};

type Figure = { name: keyof Values; quantity?: Quantity; required?: boolean };

const FIGURES: Figure[] = [
  { name: "slope_pct", required: true },
  { name: "area_m2", quantity: "area", required: true },
  { name: "rate_mm_h", quantity: "rate" },
  { name: "evenness_du_lq" },
  { name: "root_depth_mm", quantity: "root_depth" },
  { name: "minutes_to_runoff" },
  { name: "allowable_depletion" },
  { name: "initial_depletion_mm", quantity: "depth" },
  { name: "deep_and_seldom_mm", quantity: "depth" },
];

const HOW_GREEN = [
  { value: "lush", label: "Lush" },
  { value: "good", label: "Good" },
  { value: "hardy", label: "Hardy" },
];
const REGIMES = [
  { value: "established", label: "Established turf" },
  { value: "seedbed", label: "New seed (by hand, not planned yet)" },
  { value: "off", label: "Off" },
];
const EXPOSURES = [
  { value: "full_sun", label: "Full sun" },
  { value: "half_shade", label: "Half shade" },
  { value: "deep_shade", label: "Deep shade" },
  { value: "hot_edge", label: "Along paving or facing the sun" },
  { value: "windy", label: "Windy" },
];

function start(zone: Zone | undefined, today: string, units: Units): Values {
  const field = (value: number | null | undefined, quantity?: Quantity) =>
    value == null ? "" : quantity ? units.toField(quantity, value) : String(value);
  return {
    name: zone?.name ?? "",
    grass: zone?.grass ?? "tall_fescue",
    how_green: zone?.how_green ?? "good",
    regime: zone?.regime ?? "established",
    soil: zone?.soil ?? "loam",
    exposure: zone?.exposure ?? "full_sun",
    sprinkler: zone?.sprinkler ?? "fixed_spray",
    slope_pct: field(zone?.slope_pct ?? (zone ? undefined : 2)),
    area_m2: field(zone?.area_m2, "area"),
    rate_mm_h: field(zone?.rate_mm_h?.value, "rate"),
    evenness_du_lq: field(zone?.evenness_du_lq?.value),
    root_depth_mm: field(zone?.root_depth_mm?.value, "root_depth"),
    minutes_to_runoff: field(zone?.minutes_to_runoff?.value),
    allowable_depletion: field(zone?.allowable_depletion),
    initial_depletion_mm: field(zone?.initial_depletion_mm, "depth"),
    deep_and_seldom_mm: field(zone?.deep_and_seldom_mm, "depth"),
    active_from: zone ? (zone.active_from ?? "") : today,
    priority: String(zone?.priority ?? 5),
  };
}

type Props = { site: string; today: string; catalogue: Catalogue; existing?: ZoneView; onDone: () => void };

export function ZoneForm({ site, today, catalogue, existing, onDone }: Props) {
  const units = useUnits();
  const save = useSaveZone(site);
  const initial = start(existing?.zone, today, units);
  const form = useForm<Values>({
    initialValues: initial,
    validate: (values) => {
      const errors: Record<string, string> = {};
      if (values.name.trim() === "") errors.name = "Give the zone a name.";
      for (const figure of FIGURES) {
        const wrong = problem(values[figure.name], figure, catalogue, units);
        if (wrong) errors[figure.name] = wrong;
      }
      return errors;
    },
  });

  const zoneOf = (values: Values): Zone => {
    const before = existing?.zone;
    const number = (name: keyof Values, quantity?: Quantity) => stored(values[name], quantity, units);
    // What was not touched keeps its value, range and source to the last digit.
    const sourced = <K extends "rate_mm_h" | "evenness_du_lq" | "root_depth_mm" | "minutes_to_runoff">(
      name: K,
      quantity?: Quantity,
    ) => {
      if (values[name] === initial[name]) return before?.[name];
      const value = number(name, quantity);
      if (value === undefined) return undefined;
      return {
        value,
        low: value,
        high: value,
        source: { kind: "measured" as const, test: "entered by hand", date: today },
      };
    };
    const kept = (name: "area_m2" | "initial_depletion_mm" | "deep_and_seldom_mm", quantity: Quantity) =>
      values[name] === initial[name] ? before?.[name] : number(name, quantity);
    return {
      ...before,
      name: values.name.trim(),
      grass: values.grass as Zone["grass"],
      how_green: values.how_green as Zone["how_green"],
      regime: values.regime as Zone["regime"],
      soil: values.soil as Zone["soil"],
      exposure: values.exposure as Zone["exposure"],
      sprinkler: values.sprinkler as Zone["sprinkler"],
      slope_pct: number("slope_pct") ?? 0,
      area_m2: kept("area_m2", "area") ?? 0,
      rate_mm_h: sourced("rate_mm_h", "rate"),
      evenness_du_lq: sourced("evenness_du_lq"),
      root_depth_mm: sourced("root_depth_mm", "root_depth"),
      minutes_to_runoff: sourced("minutes_to_runoff"),
      allowable_depletion: number("allowable_depletion"),
      initial_depletion_mm: kept("initial_depletion_mm", "depth"),
      deep_and_seldom_mm: kept("deep_and_seldom_mm", "depth"),
      active_from: values.active_from === "" ? undefined : values.active_from,
      priority: parse(values.priority) ?? 5,
    };
  };

  const submit = form.onSubmit((values) =>
    save.mutate(
      { existing, zone: zoneOf(values) },
      {
        onSuccess: () => {
          notifications.show({ message: `${values.name.trim()} is saved and planned.` });
          onDone();
        },
        onError: (error) => {
          const field = error instanceof ApiFailure ? error.problem?.field : undefined;
          if (field) form.setFieldError(field, error.message);
        },
      },
    ),
  );

  const sprinkler = catalogue.sprinklers.find((s) => s.key === form.values.sprinkler);
  const grass = catalogue.grasses.find((g) => g.key === form.values.grass);
  const figure = (name: keyof Values, label: string, description?: string, required = false) => (
    <TextInput
      label={label}
      description={description}
      inputMode="decimal"
      withAsterisk={required}
      {...form.getInputProps(name)}
    />
  );
  const options = (entries: { key: string; name: string }[]) => entries.map((e) => ({ value: e.key, label: e.name }));
  const stale = save.error instanceof ApiFailure && save.error.status === 412;
  return (
    <form onSubmit={submit} noValidate>
      <Stack>
        <Refused error={save.error}>{stale && " Close this form to see it as it is now."}</Refused>
        <div className={classes.fields}>
          <TextInput label="Name" withAsterisk data-autofocus {...form.getInputProps("name")} />
          {figure("area_m2", `Area, ${units.label("area")}`, undefined, true)}
          <NativeSelect label="Grass" data={options(catalogue.grasses)} {...form.getInputProps("grass")} />
          <NativeSelect label="How green" data={HOW_GREEN} {...form.getInputProps("how_green")} />
          <NativeSelect label="Soil" data={options(catalogue.soils)} {...form.getInputProps("soil")} />
          {figure("slope_pct", "Slope, %", undefined, true)}
          <NativeSelect label="Sprinklers" data={options(catalogue.sprinklers)} {...form.getInputProps("sprinkler")} />
          <NativeSelect label="Sun and edges" data={EXPOSURES} {...form.getInputProps("exposure")} />
          <NativeSelect label="How it is watered" data={REGIMES} {...form.getInputProps("regime")} />
          <NativeSelect
            label="Rank when water is short"
            data={["1", "2", "3", "4", "5", "6", "7", "8", "9"].map((n) => ({
              value: n,
              label: n === "1" ? "1, first" : n === "9" ? "9, last" : n,
            }))}
            {...form.getInputProps("priority")}
          />
        </div>
        <fieldset className={classes.group}>
          <legend>Measured here, if it was</legend>
          <div className={classes.fields}>
            {figure(
              "rate_mm_h",
              `Precipitation rate, ${units.label("rate")}`,
              sprinkler && `empty: handbook, ${units.figure("rate", sprinkler.rate_mm_h[1] ?? 0)}`,
            )}
            {figure(
              "evenness_du_lq",
              "Evenness, DU low quarter",
              sprinkler && `empty: handbook, ${(sprinkler.evenness[1] ?? 0).toFixed(2)}`,
            )}
            {figure(
              "root_depth_mm",
              `Root depth, ${units.label("root_depth")}`,
              grass && `empty: handbook, ${units.figure("root_depth", grass.root_depth_mm[1] ?? 0)}`,
            )}
            {figure("minutes_to_runoff", "Minutes to the first runoff", "empty: by soil and slope")}
          </div>
        </fieldset>
        <fieldset className={classes.group}>
          <legend>Water in the root zone</legend>
          <div className={classes.fields}>
            <TextInput
              label="First day"
              description="its balance begins there"
              type="date"
              {...form.getInputProps("active_from")}
            />
            {figure("allowable_depletion", "Share that may be used, 0.05 to 0.95", "empty: 0.50, less on hot days")}
            {figure(
              "initial_depletion_mm",
              `Used at its first dawn, ${units.label("depth")}`,
              "empty: 0, freshly soaked",
            )}
            {figure(
              "deep_and_seldom_mm",
              `Deep and seldom, ${units.label("depth")}`,
              `what each watering counts for, against rain saved; empty: ${units.show("depth", 2)}`,
            )}
          </div>
        </fieldset>
        <Group justify="flex-end">
          <Button variant="subtle" onClick={onDone}>
            Cancel
          </Button>
          <Button type="submit" loading={save.isPending}>
            {existing ? "Save and plan" : "Add and plan"}
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
