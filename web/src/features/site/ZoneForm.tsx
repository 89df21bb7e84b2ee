import { Button, Group, NativeSelect, Stack, TextInput } from "@mantine/core";
import { useForm } from "@mantine/form";
import { notifications } from "@mantine/notifications";
import { useState } from "react";
import { ApiFailure, type Catalogue, type Zone, type ZoneView } from "../../api";
import { dayMonth } from "../../time";
import { useUnits } from "../../units";
import { FigureField, type Rule, useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { type Chosen, Holds, holdsQuery } from "./Holds";
import type { MeasuredFigures } from "./measured";
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
  active_from: string;
  priority: string;
};

type Measured = "rate_mm_h" | "evenness_du_lq" | "root_depth_mm" | "minutes_to_runoff";
type Plain =
  | "slope_pct"
  | "area_m2"
  | "setting_m2"
  | "allowable_depletion"
  | "initial_depletion_mm"
  | "deep_and_seldom_mm";

const RULES: Record<Measured | Plain, Rule> = {
  slope_pct: { required: true },
  area_m2: { quantity: "area", required: true },
  setting_m2: { quantity: "area" },
  rate_mm_h: { quantity: "rate" },
  evenness_du_lq: {},
  root_depth_mm: { quantity: "root_depth" },
  minutes_to_runoff: {},
  allowable_depletion: {},
  initial_depletion_mm: { quantity: "depth" },
  deep_and_seldom_mm: { quantity: "depth" },
};

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

function start(zone: Zone | undefined, today: string): Values {
  return {
    name: zone?.name ?? "",
    grass: zone?.grass ?? "tall_fescue",
    how_green: zone?.how_green ?? "good",
    regime: zone?.regime ?? "established",
    soil: zone?.soil ?? "loam",
    exposure: zone?.exposure ?? "full_sun",
    sprinkler: zone?.sprinkler ?? "fixed_spray",
    active_from: zone ? (zone.active_from ?? "") : today,
    priority: String(zone?.priority ?? 5),
  };
}

type Props = {
  site: string;
  today: string;
  catalogue: Catalogue;
  existing?: ZoneView;
  /** What tests of the zone measured, as plans use it. */
  tests: MeasuredFigures;
  onDone: () => void;
};

export function ZoneForm({ site, today, catalogue, existing, tests, onDone }: Props) {
  const units = useUnits();
  const save = useSaveZone(site);
  const [chosen, setChosen] = useState<Chosen>({});
  const before = existing?.zone;
  const figures = useFigures({
    slope_pct: before ? before.slope_pct : 2,
    area_m2: before?.area_m2,
    setting_m2: before?.setting_m2,
    rate_mm_h: before?.rate_mm_h?.value,
    evenness_du_lq: before?.evenness_du_lq?.value,
    root_depth_mm: before?.root_depth_mm?.value,
    minutes_to_runoff: before?.minutes_to_runoff?.value,
    allowable_depletion: before?.allowable_depletion,
    initial_depletion_mm: before?.initial_depletion_mm,
    deep_and_seldom_mm: before?.deep_and_seldom_mm,
  });
  const form = useForm<Values & Partial<Record<Measured | Plain, string>>>({
    initialValues: start(before, today),
    validate: (values) => {
      const errors: Record<string, string> = {};
      if (values.name.trim() === "") errors.name = "Give the zone a name.";
      for (const [name, rule] of Object.entries(RULES)) {
        const wrong = figures.problem(name, rule, catalogue);
        if (wrong) errors[name] = wrong;
      }
      return errors;
    },
  });

  const zoneOf = (values: Values): Zone => {
    const si = (name: Measured | Plain) => figures.si(name, RULES[name].quantity);
    // What was not touched keeps its value, range and source to the last digit.
    const sourced = (name: Measured) => {
      if (!figures.typed(name)) return before?.[name];
      const value = si(name);
      if (value === undefined) return undefined;
      return {
        value,
        low: value,
        high: value,
        source: { kind: "entered" as const, date: today },
      };
    };
    return {
      ...before,
      name: values.name.trim(),
      grass: values.grass as Zone["grass"],
      how_green: values.how_green as Zone["how_green"],
      regime: values.regime as Zone["regime"],
      soil: values.soil as Zone["soil"],
      exposure: values.exposure as Zone["exposure"],
      sprinkler: values.sprinkler as Zone["sprinkler"],
      slope_pct: si("slope_pct") ?? 0,
      area_m2: si("area_m2") ?? 0,
      setting_m2: si("setting_m2"),
      rate_mm_h: sourced("rate_mm_h"),
      evenness_du_lq: sourced("evenness_du_lq"),
      root_depth_mm: sourced("root_depth_mm"),
      minutes_to_runoff: sourced("minutes_to_runoff"),
      allowable_depletion: si("allowable_depletion"),
      initial_depletion_mm: si("initial_depletion_mm"),
      deep_and_seldom_mm: si("deep_and_seldom_mm"),
      active_from: values.active_from === "" ? undefined : values.active_from,
      priority: Number(values.priority),
    };
  };

  const submit = form.onSubmit((values) =>
    save.mutate(
      { existing, zone: zoneOf(values), holds: before && holdsQuery(before, zoneOf(values), chosen, today) },
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
  const figure = (name: Measured | Plain, label: string, description?: string) => (
    <FigureField
      figures={figures}
      name={name}
      label={label}
      quantity={RULES[name].quantity}
      required={RULES[name].required}
      description={description}
      error={form.errors[name] as string | undefined}
      onType={() => form.clearFieldError(name)}
    />
  );
  /** What an empty field means: what a test of the zone measured, else the handbook's middle. */
  const empty = (tested: string | undefined, handbook: string | undefined) =>
    tested ? `empty: ${tested}` : handbook && `empty: handbook, ${handbook}`;
  const options = (entries: { key: string; name: string }[]) => entries.map((e) => ({ value: e.key, label: e.name }));
  const stale = save.error instanceof ApiFailure && save.error.status === 412;
  return (
    <form onSubmit={submit} noValidate>
      <Stack>
        <Refused error={save.error}>{stale && " Close this form to see it as it is now."}</Refused>
        <div className={classes.fields}>
          <TextInput label="Name" withAsterisk data-autofocus {...form.getInputProps("name")} />
          {figure("area_m2", "Area")}
          <NativeSelect label="Grass" data={options(catalogue.grasses)} {...form.getInputProps("grass")} />
          <NativeSelect label="How green" data={HOW_GREEN} {...form.getInputProps("how_green")} />
          <NativeSelect label="Soil" data={options(catalogue.soils)} {...form.getInputProps("soil")} />
          {figure("slope_pct", "Slope, %")}
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
          <legend>Measured or known here</legend>
          <div className={classes.fields}>
            {figure(
              "rate_mm_h",
              "Precipitation rate",
              empty(
                tests.rate && `${units.figure("rate", tests.rate.value)}, measured ${dayMonth(tests.rate.date)}`,
                sprinkler && units.figure("rate", sprinkler.rate_mm_h[1] ?? 0),
              ),
            )}
            {figure(
              "evenness_du_lq",
              "Evenness, DU low quarter",
              empty(
                tests.evenness && `${tests.evenness.value.toFixed(2)}, measured ${dayMonth(tests.evenness.date)}`,
                sprinkler && (sprinkler.evenness[1] ?? 0).toFixed(2),
              ),
            )}
            {form.values.sprinkler === "portable" &&
              figure("setting_m2", "Area of one setting", `empty: ${units.show("area", 100)}`)}
            {figure(
              "root_depth_mm",
              "Root depth",
              empty(undefined, grass && units.figure("root_depth", grass.root_depth_mm[1] ?? 0)),
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
            {figure("initial_depletion_mm", "Used at its first dawn", "empty: 0, freshly soaked")}
            {figure(
              "deep_and_seldom_mm",
              "Deep and seldom",
              `what each watering counts for, against rain saved; empty: ${units.show("depth", 2)}`,
            )}
          </div>
        </fieldset>
        {before && (
          <Holds
            before={before}
            after={zoneOf(form.values)}
            today={today}
            chosen={chosen}
            onChoose={setChosen}
            errors={form.errors}
          />
        )}
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
