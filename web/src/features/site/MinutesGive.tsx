// What minutes give: "20 min × 3" on this zone, told at once, for the person at a plain dial.
import { Slider, Text } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas, ZonePlan, ZoneView } from "../../api";
import { minutes } from "../../time";
import { useUnits } from "../../units";
import { planQuery } from "../morning/queries";
import { Failed, Loading } from "../shell/States";
import classes from "./MinutesGive.module.css";
import { minutesQuery } from "./queries";

/** How long an answer waits for the thumb to stop, ms. */
const SETTLES_MS = 80;

export function MinutesGive({ site, zone }: { site: string; zone: ZoneView }) {
  const [dial, setDial] = useState({ run_minutes: 20, times: 3 });
  const [asked] = useDebouncedValue(dial, SETTLES_MS);
  const gives = useQuery(minutesQuery(site, zone.id, asked));
  const plan = useQuery(planQuery(site));
  const planned = plan.data?.current?.plan.zones.find((z) => z.zone === String(zone.id));
  return (
    <div className={classes.page}>
      <h2 className={classes.dial}>
        {dial.run_minutes} min × {dial.times} a week
      </h2>
      <div className={classes.sliders}>
        <Text component="span" id="minutes-each">
          Minutes each time
        </Text>
        <Slider
          thumbProps={{ "aria-labelledby": "minutes-each" }}
          min={1}
          max={120}
          value={dial.run_minutes}
          label={null}
          size="lg"
          thumbSize={28}
          onChange={(run_minutes) => setDial({ ...dial, run_minutes })}
        />
        <Text component="span" id="times-a-week">
          Times a week
        </Text>
        <Slider
          thumbProps={{ "aria-labelledby": "times-a-week" }}
          min={1}
          max={7}
          value={dial.times}
          label={null}
          size="lg"
          thumbSize={28}
          onChange={(times) => setDial({ ...dial, times })}
        />
      </div>
      {gives.error ? (
        <Failed message={gives.error.message} retry={() => gives.refetch()} />
      ) : gives.data ? (
        <Truth gives={gives.data} planned={planned} />
      ) : (
        <Loading what="what they give" />
      )}
    </div>
  );
}

function Truth({ gives, planned }: { gives: Schemas["MinutesGive"]; planned: ZonePlan | undefined }) {
  const units = useUnits();
  const depth = (mm: number) => units.show("depth", mm);
  const reach = gives.wets_mm / gives.roots_mm;
  return (
    <dl className={classes.truth} aria-live="polite">
      <dt>A week</dt>
      <dd>
        <strong>{depth(gives.week_net_mm)}</strong> into the soil, {units.show("volume", gives.week_l)} of water
      </dd>
      <dt>Each time</dt>
      <dd>
        {depth(gives.net_mm)} into the soil of {depth(gives.gross_mm)} that fall
        {gives.lasts_days > 0 &&
          `; the grass uses ${depth(gives.etc_mm)} a day now: it lasts ${gives.lasts_days.toFixed(1)} days`}
      </dd>
      <dt>It wets</dt>
      <dd>
        <span className={classes.core} aria-hidden="true">
          <span className={classes.wet} style={{ height: `${Math.min(100, 100 * reach)}%` }} />
        </span>
        {reach > 1
          ? `through the roots, ${units.show("root_depth", gives.roots_mm)}: the rest drains below them`
          : `${units.show("root_depth", gives.wets_mm)} of ${units.show("root_depth", gives.roots_mm)} of roots, when they are due`}
        {reach < 0.5 && " — a sprinkle: it keeps roots shallow"}
      </dd>
      <dt>It runs off</dt>
      <dd>
        {gives.runs_off_after_s == null
          ? "not within these minutes"
          : `after ${minutes(gives.runs_off_after_s)} in one go, ${depth(gives.runoff_mm)} of it: give it in ${gives.passes} passes with ${minutes(Math.ceil(gives.soak_s / 60) * 60)} between`}
      </dd>
      <dt>The driest quarter</dt>
      <dd>
        gets {depth(gives.driest_mm)} each time, {Math.round(gives.evenness * 100)} % of the mean
      </dd>
      {planned && (
        <>
          <dt>The balance</dt>
          <dd>{balanceWords(planned, depth)}</dd>
        </>
      )}
    </dl>
  );
}

/** What the water balance gives the zone this week, if no rain comes. */
function balanceWords(zone: ZonePlan, depth: (mm: number) => string): string {
  if (zone.beside) return `would give ${depth(zone.beside.balance.net_mm)} this week, with the rain that may come`;
  const runs = zone.cells.filter((cell) => cell.run);
  if (runs.length === 0) return "gives nothing this week: there is enough";
  const times = runs.map((cell) => minutes(cell.run?.run_s ?? 0)).join(" and ");
  return `gives ${depth(zone.totals.net_mm)} this week if no rain comes: ${times}`;
}
