// Rings with water and a watch: readings one after another, refills, another place.
import { Button, Group, SegmentedControl, Text } from "@mantine/core";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api";
import { minutesSeconds } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import classes from "../sprinklers/Sprinklers.module.css";
import type { FormProps } from "./form";
import { NotedFields } from "./Noted";
import soil from "./Soil.module.css";

type Ring = Schemas["Ring"];
type Walls = Schemas["Walls"];

/** A tin of 15 cm, 5 cm deep in the ground. */
const SINGLE = { ring_mm: 150, inserted_mm: 50 };

export function RingTest({ catalogue, noted, note, problem }: FormProps) {
  const units = useUnits();
  const walls = (noted.walls as Walls | undefined) ?? { walls: "double" };
  const rings = (noted.rings as Ring[] | undefined) ?? [];
  const begun = noted.begun as number | undefined;
  const [now, setNow] = useState(Date.now());
  const figures = useFigures({ start: units.system === "metric" ? 100 : 101.6 });
  const [errors, setErrors] = useState<Record<string, string | undefined>>({});
  useEffect(() => {
    if (begun === undefined) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [begun]);

  const at = rings.length - 1;
  const here = rings[at];
  const take = (name: string, quantity?: "depth", range = "level_mm", required = true) => {
    const wrong = figures.problem(name, { range, required, ...(quantity ? { quantity } : {}) }, catalogue);
    setErrors((e) => ({ ...e, [name]: wrong }));
    return wrong ? undefined : figures.si(name, quantity);
  };
  const pour = () => {
    const level_mm = take("start", "depth");
    if (level_mm === undefined) return;
    setNow(Date.now());
    note({ walls, rings: [...rings, { readings: [{ minutes: 0, level_mm }] }], begun: Date.now() });
  };
  const read = () => {
    const level_mm = take("level", "depth");
    const typed = figures.text("minutes") === "" ? undefined : take("minutes", undefined, "ring_minutes");
    const refilled = figures.text("refilled") === "" ? undefined : take("refilled", "depth");
    if (level_mm === undefined || !here || (figures.text("minutes") !== "" && typed === undefined)) return;
    const minutes = typed ?? Math.round(((Date.now() - (begun ?? Date.now())) / 60_000) * 100) / 100;
    const reading = { minutes, level_mm, ...(refilled === undefined ? {} : { refilled_to_mm: refilled }) };
    note({ rings: [...rings.slice(0, -1), { readings: [...here.readings, reading] }] });
    figures.fill({ level: null, minutes: null, refilled: null });
  };
  const said = here?.readings
    .flatMap((_, i) =>
      ["minutes", "level_mm", "refilled_to_mm"].map((f) => problem(`rings[${at}].readings[${i}].${f}`)),
    )
    .find((p) => p);
  return (
    <>
      <Text size="sm">
        Press the ring into wet turf, level. Pour water in, and read how high it stands every few minutes until it falls
        evenly: an hour or two. Fill it up before it is empty, and note to where.
      </Text>
      <SegmentedControl
        aria-label="Which ring"
        fullWidth
        value={walls.walls}
        data={[
          { value: "double", label: "Double ring" },
          { value: "single", label: "Single ring" },
        ]}
        onChange={(w) => note({ walls: w === "double" ? { walls: "double" } : { walls: "single", ...SINGLE } })}
      />
      {walls.walls === "single" && (
        <div className={classes.fields}>
          <NotedFields
            catalogue={catalogue}
            noted={walls}
            note={(changed) => note({ walls: { ...walls, ...changed } })}
            problem={(f) => problem(`walls.${f}`)}
            fields={[
              { name: "ring_mm", label: "Its diameter", range: "ring_mm", quantity: "root_depth" },
              { name: "inserted_mm", label: "Deep in the ground", range: "inserted_mm", quantity: "root_depth" },
            ]}
          />
        </div>
      )}
      {!here ? (
        <>
          <FigureField figures={figures} name="start" label="Water stands" quantity="depth" error={errors.start} />
          <Button size="md" onClick={pour}>
            Poured: start the stopwatch
          </Button>
        </>
      ) : (
        <>
          <div className={classes.timer} role="timer">
            {begun === undefined ? "–" : minutesSeconds(Math.max(0, Math.round((now - begun) / 1000)))}
          </div>
          <div className={classes.fields}>
            <FigureField
              figures={figures}
              name="level"
              label="Water stands now"
              quantity="depth"
              error={errors.level}
            />
            <FigureField
              figures={figures}
              name="refilled"
              label="Filled up to"
              quantity="depth"
              description="empty: not filled up"
              error={errors.refilled}
            />
            <FigureField
              figures={figures}
              name="minutes"
              label="At"
              unit="min"
              description="empty: by the stopwatch"
              error={errors.minutes}
            />
          </div>
          <Button size="md" onClick={read}>
            Note the reading
          </Button>
          {said && (
            <Text role="alert" c="clay">
              {said}
            </Text>
          )}
          <Readings ring={here} />
          <Group>
            {here.readings.length > 1 && (
              <Button
                variant="subtle"
                onClick={() => note({ rings: [...rings.slice(0, -1), { readings: here.readings.slice(0, -1) }] })}
              >
                Take the last reading away
              </Button>
            )}
            {here.readings.length > 3 && (
              <Button variant="subtle" onClick={pour}>
                Poured at another place
              </Button>
            )}
          </Group>
        </>
      )}
    </>
  );
}

function Readings({ ring }: { ring: Ring }) {
  const units = useUnits();
  return (
    <table className={soil.readings}>
      <caption className="hidden">Readings of this ring</caption>
      <thead>
        <tr>
          <th scope="col">min</th>
          <th scope="col">stood, {units.label("depth")}</th>
          <th scope="col">filled up to</th>
        </tr>
      </thead>
      <tbody>
        {ring.readings.slice(-6).map((r) => (
          <tr key={r.minutes}>
            <td>{r.minutes}</td>
            <td>{units.figure("depth", r.level_mm)}</td>
            <td>{r.refilled_to_mm == null ? "" : units.figure("depth", r.refilled_to_mm)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
