// The form of each way of a quick test.
import { Button, Group, NativeSelect, Text } from "@mantine/core";
import type { ReactNode } from "react";
import type { Quantity } from "../../quantities";
import { timesOf } from "./quick";
import classes from "./Sprinklers.module.css";
import { Stopwatch } from "./Stopwatch";

/** A field by its name in the API. */
type Figure = (field: string, label: string, quantity?: Quantity, unit?: string) => ReactNode;
type Fill = (minutes: Record<string, number | undefined>, cans?: number) => void;

type CansProps = { figure: Figure; fill: Fill; timed: number; error: string | undefined };

/** A few cans and a watch. */
export function TimedCans({ figure, fill, timed, error }: CansProps) {
  const next = `minutes[${timed}]`;
  return (
    <>
      <Text size="sm">
        Set a few straight-sided cans about, mark them, run the zone. Take the time as each reaches its mark; wait for
        the last one.
      </Text>
      {figure("mark_mm", "Mark", "depth")}
      <Stopwatch
        start="Start the stopwatch"
        take="A can reached the mark"
        goesOn
        onTime={(m) => fill({ [next]: m }, timed + 1)}
      />
      {timed > 0 && (
        <div className={classes.times}>
          {timesOf(timed).map((name, i) => figure(name, `Can ${i + 1}`, undefined, "min"))}
        </div>
      )}
      {error && (
        <Text role="alert" c="clay">
          {error}
        </Text>
      )}
      <Group>
        <Button variant="subtle" size="xs" onClick={() => fill({ [next]: undefined }, timed + 1)}>
          Type a can's time
        </Button>
        {timed > 0 && (
          <Button variant="subtle" size="xs" onClick={() => fill({}, timed - 1)}>
            Take the last can away
          </Button>
        )}
      </Group>
    </>
  );
}

/** The water meter. */
export function MeterRead({ figure, fill }: { figure: Figure; fill: Fill }) {
  return (
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
  );
}

type NozzleProps = { figure: Figure; square: boolean; onSquare: (square: boolean) => void };

/** The nozzle's chart and the spacing of heads. */
export function NozzleChart({ figure, square, onSquare }: NozzleProps) {
  return (
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
          value={square ? "square" : "triangle"}
          data={[
            { value: "square", label: "rows side by side" },
            { value: "triangle", label: "equal triangles" },
          ]}
          onChange={(e) => onSquare(e.currentTarget.value === "square")}
        />
        {square && figure("row_spacing_m", "Between rows", "length")}
        {figure("chart_kpa", "Chart's pressure", "pressure")}
        {figure("here_kpa", "Pressure here", "pressure")}
      </div>
    </>
  );
}
