// A quick test: the rate alone, in a few minutes, by a few cans, by the meter or by the nozzle's chart.
import { Button, SegmentedControl, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { newKey } from "../../key";
import type { Quantity } from "../../quantities";
import { dayMonth, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import { MayRecord } from "../session/MayRecord";
import { Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, zonesQuery } from "../site/queries";
import { Finished } from "./Finished";
import { MeterRead, NozzleChart, TimedCans } from "./QuickWays";
import { testsQuery, useAddTest, useResult } from "./queries";
import { type Choices, fieldsOf, testOf, WAYS, type Way } from "./quick";
import classes from "./Sprinklers.module.css";

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
  const compute = useResult(site, zone);
  const add = useAddTest(site, zone);
  const [key, setKey] = useState(newKey);
  const [way, setWay] = useState<Way>("to_depth");
  const figures = useFigures({ mark_mm: { metric: "13", us: "0.5" }, area_m2: area, arc_degrees: 180 });
  const [errors, setErrors] = useErrors(figures);
  /** How many cans were timed. */
  const [timed, setTimed] = useState(0);
  const [square, setSquare] = useState(true);

  /** What was sent may have arrived: with other figures it is a test of its own. */
  const changed = () => {
    compute.reset();
    if (add.isError) {
      setKey(newKey());
      add.reset();
    }
  };
  const si = (field: string, quantity?: Quantity) => figures.si(field, quantity) ?? 0;
  const chosen: Choices = {
    way,
    timed,
    square,
    pressures: figures.text("chart_kpa") !== "" || figures.text("here_kpa") !== "",
  };
  const test = () => testOf(chosen, si);
  const find = (): Record<string, string | undefined> => {
    const of = (field: string, range: string, quantity?: Quantity) =>
      catalogue.data &&
      figures.problem(field, { range, required: true, ...(quantity ? { quantity } : {}) }, catalogue.data);
    const found: Record<string, string | undefined> = Object.fromEntries(
      fieldsOf(chosen).map(([field, name, quantity]) => [field, of(field, name, quantity)]),
    );
    if (way === "to_depth" && timed === 0) found.times = "Time at least one can.";
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
    compute.mutate(test(), { onError: refuse });
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
  const result = compute.data?.result;
  const known = tests.data?.find((t) => t.zone === zone && t.counts)?.result.rate_mm_h;
  const width = (r: { low: number; high: number; value: number }) => (r.high - r.low) / r.value;
  const surer =
    result && known && width(known) < width(result.rate_mm_h)
      ? tests.data?.find((t) => t.zone === zone && t.counts && !t.outdated)
      : undefined;
  const failed = compute.error ?? add.error;
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
            data={WAYS}
          />
          {way === "to_depth" && <TimedCans figure={figure} fill={fill} timed={timed} error={errors.times} />}
          {way === "meter" && <MeterRead figure={figure} fill={fill} />}
          {way === "nozzle" && (
            <NozzleChart
              figure={figure}
              square={square}
              onSquare={(chosen) => {
                setSquare(chosen);
                changed();
              }}
            />
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
            <Button type="submit" size="md" loading={compute.isPending}>
              Work out the rate
            </Button>
          )}
        </Stack>
      </form>
    </main>
  );
}
