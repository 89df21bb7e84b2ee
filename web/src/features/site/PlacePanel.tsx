import { Button, Checkbox, Group, NativeSelect, Stack, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Schemas, type SiteView } from "../../api";
import type { Quantity } from "../../quantities";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import { Failed, Loading, Refused } from "../shell/States";
import { CONTROLLER_FIELDS, Controller, STORE_FIELDS, Store, suppliedFigures } from "./Controller";
import { Hours } from "./Hours";
import { catalogueQuery, useSaveSite } from "./queries";
import classes from "./SitePage.module.css";

type Window = Schemas["Window"];

const FIGURES: { name: string; label: string; quantity?: Quantity; required?: boolean }[] = [
  { name: "latitude", label: "Latitude, ° (south negative)", required: true },
  { name: "longitude", label: "Longitude, ° (west negative)", required: true },
  { name: "elevation_m", label: "Elevation", quantity: "elevation", required: true },
  { name: "price_per_m3", label: "Price of water", quantity: "price" },
  { name: "flow_l_min", label: "Flow of the supply", quantity: "flow" },
];
const ALL = [...FIGURES, ...STORE_FIELDS, ...CONTROLLER_FIELDS];

export function PlacePanel({ site, view }: { site: string; view: SiteView }) {
  const catalogue = useQuery(catalogueQuery);
  const save = useSaveSite(site, () => notifications.show({ message: "Saved, and planned again." }));
  const stored = {
    latitude: view.site.latitude,
    longitude: view.site.longitude,
    elevation_m: view.site.elevation_m,
    price_per_m3: view.site.price_per_m3,
    flow_l_min: view.supply.flow_l_min,
    ...suppliedFigures(view),
  };
  const figures = useFigures(stored, { stored: true });
  const [errors, setErrors] = useErrors(figures);
  const [name, setName] = useState(view.site.name);
  const [timeZone, setTimeZone] = useState(view.site.time_zone);
  const [currency, setCurrency] = useState(view.site.currency ?? "");
  const [usedAs, setUsedAs] = useState(view.site.use ?? "home");
  const [windows, setWindows] = useState<Window[]>(view.windows);
  const [step, setStep] = useState(String(view.controller.step_s ?? 60));
  const [patterns, setPatterns] = useState(view.controller.patterns ?? []);
  const [together, setTogether] = useState(view.supply.together ?? false);
  if (catalogue.isPending) return <Loading what="the form" />;
  if (catalogue.error) return <Failed message={catalogue.error.message} retry={() => catalogue.refetch()} />;

  const value = (name: string) => figures.si(name, ALL.find((x) => x.name === name)?.quantity);
  const holds_l = value("holds_l");
  const refill_l_min = value("refill_l_min");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const wrong: Record<string, string> = {};
    for (const f of ALL) {
      const p = figures.problem(f.name, f, catalogue.data);
      if (p) wrong[f.name] = p;
    }
    // One of the two says nothing by itself.
    if (holds_l !== undefined && refill_l_min === undefined) wrong.refill_l_min ??= "Fill this in, or empty both.";
    if (holds_l === undefined && refill_l_min !== undefined) wrong.holds_l ??= "Fill this in, or empty both.";
    setErrors(wrong);
    if (Object.keys(wrong).length > 0) return;
    save.mutate(
      {
        version: view.version,
        edit: {
          site: {
            ...view.site,
            name,
            time_zone: timeZone,
            latitude: value("latitude") ?? 0,
            longitude: value("longitude") ?? 0,
            elevation_m: value("elevation_m") ?? 0,
            use: usedAs,
            currency: currency.trim() === "" ? undefined : currency.trim().toUpperCase(),
            price_per_m3: value("price_per_m3"),
          },
          windows,
          supply: {
            flow_l_min: value("flow_l_min"),
            together,
            ...(holds_l !== undefined && refill_l_min !== undefined ? { store: { holds_l, refill_l_min } } : {}),
          },
          controller: {
            longest_run_min: value("longest_run_min"),
            programmes: value("programmes"),
            starts: value("starts"),
            seasonal_adjust_pct: value("seasonal_adjust_pct"),
            patterns,
            step_s: Number(step),
          },
        },
      },
      {
        onError: (error) => {
          const field = error instanceof ApiFailure ? error.problem?.field : undefined;
          if (field) setErrors({ [field.replace(/^(site|supply|controller)\.(store\.)?/, "")]: error.message });
        },
      },
    );
  };
  const figure = (f: (typeof FIGURES)[number]) => (
    <FigureField key={f.name} figures={figures} {...f} error={errors[f.name]} />
  );
  return (
    <form onSubmit={submit} noValidate>
      <Stack>
        <Refused error={save.error} />
        <div className={classes.columns}>
          <Stack>
            <h2>Place</h2>
            <TextInput
              label="Name"
              withAsterisk
              value={name}
              error={errors.name}
              onChange={(e) => setName(e.currentTarget.value)}
            />
            <TextInput
              label="Time zone"
              description="IANA name, such as America/New_York"
              withAsterisk
              value={timeZone}
              error={errors.time_zone}
              onChange={(e) => setTimeZone(e.currentTarget.value)}
            />
            <div className={classes.fields}>{FIGURES.slice(0, 3).map(figure)}</div>
            <NativeSelect
              label="The lawn belongs to"
              description="budgets of water offices ask"
              data={[
                { value: "home", label: "a home" },
                { value: "other", label: "a park, a school, a business" },
              ]}
              value={usedAs}
              onChange={(e) => setUsedAs(e.currentTarget.value === "other" ? "other" : "home")}
            />
            <h2>Water</h2>
            <div className={classes.fields}>
              {FIGURES.slice(3)
                .filter((f) => f.name !== "price_per_m3" || view.tariffs.length === 0)
                .map(figure)}
              {view.tariffs.length > 0 && <Text className="quiet">What water costs is kept in the water book.</Text>}
              <TextInput
                label="Currency"
                description="three letters, such as EUR"
                value={currency}
                error={errors.currency}
                onChange={(e) => setCurrency(e.currentTarget.value)}
              />
            </div>
            <Checkbox
              label="Zones may run together, as far as the flow allows"
              description="else one at a time"
              checked={together}
              onChange={(e) => setTogether(e.currentTarget.checked)}
            />
            <Store figures={figures} errors={errors} />
            <Controller
              figures={figures}
              errors={errors}
              step={step}
              onStep={setStep}
              patterns={patterns}
              onPatterns={setPatterns}
            />
          </Stack>
          <Hours windows={windows} onChange={setWindows} errors={errors} />
        </div>
        <Group justify="flex-end">
          <Button type="submit" loading={save.isPending}>
            Save and plan
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
