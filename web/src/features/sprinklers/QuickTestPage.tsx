// A quick test: the rate alone, in a few minutes, by a few cans, by the meter or by the nozzle's chart.
import { Button, Group, NativeSelect, SegmentedControl, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import type { Quantity } from "../../quantities";
import { dayMonth, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import { MayRecord } from "../session/MayRecord";
import { Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, zonesQuery } from "../site/queries";
import { Finished } from "./Finished";
import { type QuickTest, type SprinklerTest, testsQuery, useAddTest, useReckon } from "./queries";
import classes from "./Sprinklers.module.css";
import { Stopwatch } from "./Stopwatch";

type Way = QuickTest["way"];

export function QuickTestPage() {
  const { site, zone } = useParams({ from: "/site/$site/sprinklers/$zone/quick" });
  return (
    <MayRecord site={site} what="test sprinklers">
      <QuickTesting site={site} zone={zone} />
    </MayRecord>
  );
}

function QuickTesting({ site, zone }: { site: string; zone: string }) {
  const id = Number(zone);
  const zones = useQuery(zonesQuery(site));
  const [done, setDone] = useState<Schemas["Added"]>();
  if (zones.isPending) return <Loading what="the zone" />;
  if (!zones.data) return <Failed message={zones.error.message} retry={() => zones.refetch()} />;
  const found = zones.data.find((z) => z.id === id);
  if (!found) return <Failed message="There is no such zone here." />;
  const at = { site, zone: id, name: found.zone.name };
  if (done) return <Finished {...at} added={done} />;
  return <Quick {...at} area={found.zone.area_m2} onDone={setDone} />;
}

type Props = { site: string; zone: number; name: string; area: number; onDone: (added: Schemas["Added"]) => void };

function Quick({ site, zone, name, area, onDone }: Props) {
  const units = useUnits();
  const catalogue = useQuery(catalogueQuery);
  const tests = useQuery(testsQuery(site));
  const reckon = useReckon(site, zone);
  const add = useAddTest(site, zone);
  const [key, setKey] = useState(newKey);
  const [way, setWay] = useState<Way>("to_depth");
  const figures = useFigures({ mark_mm: { metric: "13", us: "0.5" }, area_m2: area, arc_degrees: 180 });
  /** How many cans were timed. */
  const [timed, setTimed] = useState(0);
  const [rows, setRows] = useState("square");
  const [errors, setErrors] = useState<Record<string, string | undefined>>({});

  /** What was sent may have arrived: with other figures it is a test of its own. */
  const changed = () => {
    reckon.reset();
    if (add.isError) {
      setKey(newKey());
      add.reset();
    }
  };
  const si = (field: string, quantity?: Quantity) => figures.si(field, quantity) ?? 0;
  const times = Array.from({ length: timed }, (_, i) => `minutes[${i}]`);
  const pressures = figures.text("chart_kpa") !== "" || figures.text("here_kpa") !== "";
  const test = (): SprinklerTest => {
    if (way === "to_depth") {
      return { method: "quick", way, mark_mm: si("mark_mm", "depth"), minutes: times.map((name) => si(name)) };
    }
    if (way === "meter") {
      return {
        method: "quick",
        way,
        before_l: si("before_l", "volume"),
        after_l: si("after_l", "volume"),
        minutes: si("minutes"),
        area_m2: si("area_m2", "area"),
      };
    }
    return {
      method: "quick",
      way,
      flow_l_min: si("flow_l_min", "nozzle_flow"),
      arc_degrees: si("arc_degrees"),
      head_spacing_m: si("head_spacing_m", "length"),
      ...(rows === "square" ? { row_spacing_m: si("row_spacing_m", "length") } : {}),
      ...(pressures
        ? { pressures: { chart_kpa: si("chart_kpa", "pressure"), here_kpa: si("here_kpa", "pressure") } }
        : {}),
    };
  };
  /** Each field of a way with its range in the catalogue and its quantity. */
  const fields: Record<Way, [string, string, Quantity?][]> = {
    to_depth: [["mark_mm", "mark_mm", "depth"]],
    meter: [
      ["before_l", "meter_l", "volume"],
      ["after_l", "meter_l", "volume"],
      ["minutes", "minutes"],
      ["area_m2", "area_m2", "area"],
    ],
    nozzle: [
      ["flow_l_min", "nozzle_flow_l_min", "nozzle_flow"],
      ["arc_degrees", "arc_degrees"],
      ["head_spacing_m", "spacing_m", "length"],
      ...(rows === "square" ? ([["row_spacing_m", "spacing_m", "length"]] as [string, string, Quantity][]) : []),
      ...(pressures
        ? ([
            ["chart_kpa", "pressure_kpa", "pressure"],
            ["here_kpa", "pressure_kpa", "pressure"],
          ] as [string, string, Quantity][])
        : []),
    ],
  };
  const find = (): Record<string, string | undefined> => {
    const of = (field: string, range: string, quantity?: Quantity) =>
      catalogue.data &&
      figures.problem(field, { range, required: true, ...(quantity ? { quantity } : {}) }, catalogue.data);
    const found = Object.fromEntries(fields[way].map(([field, name, quantity]) => [field, of(field, name, quantity)]));
    if (way === "to_depth") {
      for (const name of times) found[name] = of(name, "minutes");
      if (timed === 0) found.times = "Time at least one can.";
    }
    return found;
  };
  const refuse = (error: Error) => {
    const field = error instanceof ApiFailure ? error.problem?.field?.replace(/^test\./, "") : undefined;
    if (field)
      setErrors({ [field === "minutes" && way === "to_depth" ? "times" : field]: sentenceCase(error.message) });
  };
  const ask = (event: FormEvent) => {
    event.preventDefault();
    const found = find();
    setErrors(found);
    if (Object.values(found).some(Boolean)) return;
    reckon.mutate(test(), { onError: refuse });
  };
  const keep = () => add.mutate({ test: test(), idempotency_key: key }, { onSuccess: onDone, onError: refuse });

  const figure = (field: string, label: string, quantity?: Quantity, unit?: string) => (
    <FigureField
      key={field}
      figures={figures}
      name={field}
      label={label}
      quantity={quantity}
      unit={unit}
      error={errors[field]}
      onType={changed}
    />
  );
  const fill = (minutes: Record<string, number | undefined>, cans = timed) => {
    figures.fill(minutes);
    setTimed(cans);
    changed();
  };
  const result = reckon.data?.result;
  const known = tests.data?.find((t) => t.zone === zone && t.counts)?.result.rate_mm_h;
  const width = (r: { low: number; high: number; value: number }) => (r.high - r.low) / r.value;
  const surer =
    result && known && width(known) < width(result.rate_mm_h)
      ? tests.data?.find((t) => t.zone === zone && t.counts && !t.outdated)
      : undefined;
  const failed = reckon.error ?? add.error;
  const unplaced = failed && !(failed instanceof ApiFailure && failed.problem?.field) ? failed : null;
  return (
    <main className={classes.narrow}>
      <h1>{name}: quick test</h1>
      <Text className="quiet">The rate alone. How evenly it falls, only cans all over the zone tell.</Text>
      <form onSubmit={ask} noValidate>
        <Stack gap="sm">
          <SegmentedControl
            aria-label="How it is measured"
            value={way}
            fullWidth
            onChange={(w) => {
              setWay(w as Way);
              setErrors({});
              changed();
            }}
            data={[
              { value: "to_depth", label: "Cans, watch" },
              { value: "meter", label: "Meter" },
              { value: "nozzle", label: "Nozzle chart" },
            ]}
          />
          {way === "to_depth" && (
            <>
              <Text size="sm">
                Set a few straight-sided cans about, mark them, run the zone. Take the time as each reaches its mark;
                wait for the last one.
              </Text>
              {figure("mark_mm", "Mark", "depth")}
              <Stopwatch
                start="Start the stopwatch"
                take="A can reached the mark"
                goesOn
                onTime={(m) => fill({ [`minutes[${timed}]`]: m }, timed + 1)}
              />
              {timed > 0 && (
                <div className={classes.times}>
                  {times.map((name, i) => figure(name, `Can ${i + 1}`, undefined, "min"))}
                </div>
              )}
              {errors.times && (
                <Text role="alert" c="clay">
                  {errors.times}
                </Text>
              )}
              <Group>
                <Button
                  variant="subtle"
                  size="xs"
                  onClick={() => fill({ [`minutes[${timed}]`]: undefined }, timed + 1)}
                >
                  Type a can's time
                </Button>
                {timed > 0 && (
                  <Button variant="subtle" size="xs" onClick={() => fill({}, timed - 1)}>
                    Take the last can away
                  </Button>
                )}
              </Group>
            </>
          )}
          {way === "meter" && (
            <>
              <Text size="sm">Nothing else may draw water. Read the meter, run the zone alone, read it again.</Text>
              <Stopwatch start="Start the stopwatch" take="It stopped" onTime={(m) => fill({ minutes: m })} />
              <div className={classes.fields}>
                {figure("before_l", "Meter before", "volume")}
                {figure("after_l", "Meter after", "volume")}
                {figure("minutes", "Ran", undefined, "min")}
                {figure("area_m2", "Area watered", "area")}
              </div>
            </>
          )}
          {way === "nozzle" && (
            <>
              <Text size="sm">
                From the nozzle's chart and a tape: a guess at what a new nozzle does. A few cans know better.
              </Text>
              <div className={classes.fields}>
                {figure("flow_l_min", "Flow of one nozzle", "nozzle_flow")}
                {figure("arc_degrees", "Its arc", undefined, "°")}
                {figure("head_spacing_m", "Between heads", "length")}
                <NativeSelect
                  label="Heads stand in"
                  value={rows}
                  data={[
                    { value: "square", label: "rows side by side" },
                    { value: "triangle", label: "equal triangles" },
                  ]}
                  onChange={(e) => {
                    setRows(e.currentTarget.value);
                    changed();
                  }}
                />
                {rows === "square" && figure("row_spacing_m", "Between rows", "length")}
                {figure("chart_kpa", "Chart's pressure", "pressure")}
                {figure("here_kpa", "Pressure here", "pressure")}
              </div>
            </>
          )}
          {unplaced && <Refused error={unplaced} />}
          {result ? (
            <>
              <div className={classes.soFar} role="status">
                <span>
                  {units.show("rate", result.rate_mm_h.value)}, between {units.figure("rate", result.rate_mm_h.low)} and{" "}
                  {units.figure("rate", result.rate_mm_h.high)}
                </span>
              </div>
              {surer && (
                <Text size="sm">
                  The test of {dayMonth(surer.date)} is surer: {units.figure("rate", surer.result.rate_mm_h.low)} to{" "}
                  {units.show("rate", surer.result.rate_mm_h.high)}. Kept, this one counts for the rate because it is
                  newer.
                </Text>
              )}
              <Button size="md" loading={add.isPending} onClick={keep}>
                Keep it, plan with it
              </Button>
            </>
          ) : (
            <Button type="submit" size="md" loading={reckon.isPending}>
              Work out the rate
            </Button>
          )}
        </Stack>
      </form>
    </main>
  );
}
