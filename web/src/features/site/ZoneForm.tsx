import { Button, Group, NativeSelect, Stack, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Catalogue, type ZoneView } from "../../api";
import { dayMonth } from "../../time";
import { useUnits } from "../../units";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { SPOTS } from "../soil/words";
import { type Chosen, Holds, holdsQuery } from "./Holds";
import type { MeasuredFigures } from "./measured";
import { useSaveZone } from "./queries";
import classes from "./SitePage.module.css";
import { EDGES, figuresOf, isNew, type Measured, type Plain, RULES, start, type Values, zoneOf } from "./zoneValues";

const HOW_GREEN = [
  { value: "lush", label: "Lush" },
  { value: "good", label: "Good" },
  { value: "hardy", label: "Hardy" },
];
const REGIMES = [
  { value: "established", label: "Established turf" },
  { value: "dormant", label: "Let go: its crowns alone" },
  { value: "recovering", label: "Waking from a drought" },
  { value: "seedbed", label: "New seed: its top is kept moist" },
  { value: "filling_in", label: "New grass that fills in" },
  { value: "off", label: "Off" },
];
const PLANTS = [
  { value: "turf", label: "its turf" },
  { value: "trees", label: "trees in it: deep and seldom" },
];
const LATE_HOURS = [
  { value: "by_grass", label: "Late afternoon, unless the grass falls ill" },
  { value: "never", label: "Never" },
  { value: "afternoon", label: "Late afternoon" },
  { value: "evening", label: "Evening too: I insist" },
];
const SOIL_FIGURES = [
  { value: "irrigation_association", label: "Irrigation Association’s table" },
  { value: "saxton_rawls", label: "Saxton and Rawls, with Green and Ampt" },
];
const EXPOSURES = [
  { value: "full_sun", label: "Full sun" },
  { value: "half_shade", label: "Half shade" },
  { value: "deep_shade", label: "Deep shade" },
  { value: "hot_edge", label: "Along paving or facing the sun" },
  { value: "windy", label: "Windy" },
];

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
  const figures = useFigures(figuresOf(before), { stored: before !== undefined });
  const [errors, setErrors] = useErrors(figures);
  const [values, setValues] = useState(() => start(before, today));
  const zone = zoneOf(values, figures, before, today);
  // Seed lies since the day on which it was sown, not since somebody says so.
  const sown = isNew(values) && values.sown_on !== "" && values.sown_on < today ? values.sown_on : undefined;
  const since = sown ? { ...chosen, regime: sown, sown_on: sown, new_grass_as: sown } : chosen;
  const wrong = () => {
    const found: Record<string, string> = {};
    if (values.name.trim() === "") found.name = "Give the zone a name.";
    for (const [name, rule] of Object.entries(RULES)) {
      const problem = figures.problem(name, rule, catalogue);
      if (problem) found[name] = problem;
    }
    return found;
  };
  const forget = (name: string) => {
    const { [name]: _, ...rest } = errors;
    setErrors(rest);
  };

  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found = wrong();
    setErrors(found);
    if (Object.keys(found).length > 0) return;
    save.mutate(
      { existing, zone, holds: before && holdsQuery(before, zone, since, today) },
      {
        onSuccess: () => {
          notifications.show({ message: `${values.name.trim()} is saved and planned.` });
          onDone();
        },
        onError: (error) => {
          const field = error instanceof ApiFailure ? error.problem?.field : undefined;
          if (field) setErrors({ [field]: error.message });
        },
      },
    );
  };
  const field = (name: keyof Values) => ({
    value: values[name],
    error: errors[name],
    onChange: (e: { currentTarget: { value: string } }) => {
      const { value } = e.currentTarget;
      setValues((v) => ({ ...v, [name]: value }));
      forget(name);
    },
  });

  const sprinkler = catalogue.sprinklers.find((s) => s.key === values.sprinkler);
  const grass = catalogue.grasses.find((g) => g.key === values.grass);
  const figure = (name: Measured | Plain, label: string, description?: string) => (
    <FigureField
      figures={figures}
      name={name}
      label={label}
      quantity={RULES[name].quantity}
      required={RULES[name].required}
      description={description}
      error={errors[name]}
      onType={() => forget(name)}
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
          <TextInput label="Name" withAsterisk data-autofocus {...field("name")} />
          {figure("area_m2", "Area")}
          <NativeSelect label="Grass" data={options(catalogue.grasses)} {...field("grass")} />
          <NativeSelect label="Watered for" data={PLANTS} {...field("plants")} />
          <NativeSelect label="How green" data={HOW_GREEN} {...field("how_green")} />
          <NativeSelect label="Soil" data={options(catalogue.soils)} {...field("soil")} />
          <NativeSelect label="Soil figures by" data={SOIL_FIGURES} {...field("soil_figures")} />
          {figure("slope_pct", "Slope, %")}
          <NativeSelect label="Sprinklers" data={options(catalogue.sprinklers)} {...field("sprinkler")} />
          <NativeSelect label="Sun and edges" data={EXPOSURES} {...field("exposure")} />
          <NativeSelect label="How it is watered" data={REGIMES} {...field("regime")} />
          <NativeSelect label="After noon" data={LATE_HOURS} {...field("late_hours")} />
          <NativeSelect
            label="Rank when water is short"
            data={["1", "2", "3", "4", "5", "6", "7", "8", "9"].map((n) => ({
              value: n,
              label: n === "1" ? "1, first" : n === "9" ? "9, last" : n,
            }))}
            {...field("priority")}
          />
        </div>
        {isNew(values) && (
          <fieldset className={classes.group}>
            <legend>While its grass is new</legend>
            <div className={classes.fields}>
              <TextInput label="Sown on" type="date" {...field("sown_on")} />
              <NativeSelect
                label="Made of"
                data={[
                  { value: "seed", label: "seed or sprigs on bare ground" },
                  { value: "overseed", label: "seed into a lawn that stands" },
                  { value: "sod", label: "sod" },
                  { value: "plugs", label: "plugs" },
                ]}
                {...field("new_grass_as")}
              />
              <NativeSelect
                label="Who waters it"
                data={[
                  { value: "clock", label: "its sprinklers, by themselves" },
                  { value: "hand", label: "a person, who is reminded" },
                ]}
                {...field("new_grass_by")}
              />
              <TextInput
                label="Every day from"
                type="time"
                description="empty: the site’s hours"
                {...field("new_grass_from")}
              />
              <TextInput
                label="To"
                type="time"
                description="rules without a permit bar these too"
                {...field("new_grass_to")}
                error={errors["new_grass_hours.to"]}
              />
            </div>
          </fieldset>
        )}
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
            {values.sprinkler === "portable" &&
              figure("setting_m2", "Area of one setting", `empty: ${units.show("area", 100)}`)}
            {figure(
              "root_depth_mm",
              "Root depth",
              empty(
                undefined,
                grass && units.figure("root_depth", values.plants === "trees" ? 600 : (grass.root_depth_mm[1] ?? 0)),
              ),
            )}
            {figure("minutes_to_runoff", "Minutes to the first runoff", "empty: by soil and slope")}
          </div>
        </fieldset>
        <fieldset className={classes.group}>
          <legend>Water in the root zone</legend>
          <div className={classes.fields}>
            <TextInput label="First day" description="its balance begins there" type="date" {...field("active_from")} />
            {figure("allowable_depletion", "Share that may be used, 0.05 to 0.95", "empty: 0.50, less on hot days")}
            {figure("initial_depletion_mm", "Used at its first dawn", "empty: 0, freshly soaked")}
            {figure(
              "deep_and_seldom_mm",
              "Deep and seldom",
              `what each watering counts for, against rain saved; empty: ${units.show("depth", 2)}`,
            )}
          </div>
        </fieldset>
        <fieldset className={classes.group}>
          <legend>Hot edges, watered by hand in heat</legend>
          <div className={classes.fields}>
            {EDGES.map((spot) => (
              <div key={spot}>{figure(`edge_${spot}`, `Area ${SPOTS[spot]}`, "empty: none")}</div>
            ))}
          </div>
          {errors.hot_edges && (
            <Text role="alert" c="clay">
              {errors.hot_edges}
            </Text>
          )}
        </fieldset>
        {before && (
          <Holds before={before} after={zone} today={today} chosen={since} onChoose={setChosen} errors={errors} />
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
