// Heat ahead: which days strain which grass, what to do, which places to water by hand, and whether cooling at midday helps.
import { Button, Text } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import type { Shown } from "../../quantities";
import { minutesSeconds, shortDay } from "../../time";
import { useUnits } from "../../units";
import { useRights } from "../session/rights";
import { SPOTS } from "../soil/words";
import type { StressView, ZoneStress } from "./queries";
import classes from "./Stress.module.css";
import { DEEDS, dueTogether, notCoolingWords, STEPS } from "./words";

/** Litres or gallons, whole ones. */
const whole = (units: Shown, litres: number) =>
  `${Math.round(Number(units.toField("bucket", litres)))} ${units.label("bucket")}`;

type Props = { site: string; stress: StressView };

export function HeatAhead({ site, stress }: Props) {
  const units = useUnits();
  const { record } = useRights(site);
  const { zones, today } = stress;
  const due = zones.filter((z) => z.walk_due);
  const strained = zones.filter((z) => z.heat.some((day) => day.step));
  const deeds = deedsOf(zones);
  const byHand = zones.flatMap((z) => z.by_hand.map((place) => ({ zone: z.name, ...place })));
  const cooled = zones.filter((z) => z.cooling.length > 0);
  const known = zones.flatMap((z) => z.heat);
  const hottest = known.length > 0 ? Math.max(...known.map((day) => day.tmax_c)) : undefined;
  return (
    <section className={classes.heat}>
      <h2>Heat ahead</h2>
      {due.length > 0 && (
        <Text>
          <strong>{due.length === 1 ? "One zone is" : `${due.length} zones are`} to be looked at:</strong>{" "}
          {dueTogether(due, today, units)}.
        </Text>
      )}
      {record && (
        <Button
          component={Link}
          to={`/site/${site}/stress/walk`}
          size="md"
          my="xs"
          variant={due.length > 0 ? "filled" : "outline"}
        >
          Walk the lawn
        </Button>
      )}
      {deeds.length > 0 && (
        <ul className={classes.deeds} aria-label="What to do in the heat">
          {deeds.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      )}
      {byHand.length > 0 && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too
        <section className={classes.scroll} tabIndex={0} aria-label="Places to water by hand">
          <table className={classes.table}>
            <caption>
              By hand on a hot day, early: what a hot edge uses on the hottest of these days, with a hose of{" "}
              {units.show("hose_flow", byHand[0]?.hose_l_min ?? 0)}
            </caption>
            <thead>
              <tr>
                <th scope="col">Place</th>
                <th scope="col">Area</th>
                <th scope="col">Depth</th>
                <th scope="col">Water</th>
                <th scope="col">Time</th>
              </tr>
            </thead>
            <tbody>
              {byHand.map((place) => (
                <tr key={`${place.zone} ${place.spot}`}>
                  <th scope="row">
                    {place.zone}, {SPOTS[place.spot]}
                  </th>
                  <td>{units.show("area", place.area_m2)}</td>
                  <td>{units.show("depth", place.depth_mm)}</td>
                  <td>{whole(units, place.litres)}</td>
                  <td>{Math.max(1, Math.round(place.minutes))} min</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {strained.length === 0 ? (
        <Text>
          {hottest === undefined
            ? "Nobody tells how warm the days ahead become: connect the weather service on Site."
            : `Nothing that strains the lawn: at most ${units.show("temperature", hottest)} in the days ahead.`}
        </Text>
      ) : (
        <Days zones={zones} today={today} />
      )}
      {cooled.length > 0 && <CoolingTimes zones={cooled} />}
    </section>
  );
}

/** What to do, each thing once; what is for grass of one season alone says so. */
function deedsOf(zones: ZoneStress[]): string[] {
  const strained = new Set(zones.filter((z) => z.deeds.length > 0).map((z) => z.season));
  const all = [...new Set(zones.flatMap((z) => z.deeds))];
  return all.map((deed) => {
    const seasons = new Set(zones.filter((z) => z.deeds.includes(deed)).map((z) => z.season));
    const [season] = seasons;
    return season && seasons.size < strained.size ? `${SEASONS[season]} grass: ${lower(DEEDS[deed])}` : DEEDS[deed];
  });
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

const SEASONS: Record<ZoneStress["season"], string> = { cool: "Cool-season", warm: "Warm-season" };

function Days({ zones, today }: { zones: ZoneStress[]; today: string }) {
  const units = useUnits();
  const seasons = (["cool", "warm"] as const).filter((season) => zones.some((z) => z.season === season));
  const of = (season: ZoneStress["season"]) => zones.find((z) => z.season === season)?.heat ?? [];
  const days = of(seasons[0] ?? "cool");
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too
    <section className={classes.scroll} tabIndex={0} aria-label="Heat of the days ahead">
      <table className={classes.table}>
        <caption>What heat strains, by day, {units.label("temperature")}</caption>
        <thead>
          <tr>
            <th scope="col">Day</th>
            <th scope="col">High</th>
            <th scope="col">Night</th>
            <th scope="col">Soil</th>
            {seasons.map((season) => (
              <th scope="col" key={season}>
                {SEASONS[season]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {days.map((day, i) => (
            <tr key={day.date} data-hot={day.step ?? undefined}>
              <th scope="row">{day.date === today ? "today" : shortDay(day.date)}</th>
              <td>{units.figure("temperature", day.tmax_c)}</td>
              <td>
                {day.tmin_c == null ? (
                  "–"
                ) : (
                  <span data-warm={day.warm_night || undefined}>{units.figure("temperature", day.tmin_c)}</span>
                )}
              </td>
              <td>{day.soil_c == null ? "–" : units.figure("temperature", day.soil_c)}</td>
              {seasons.map((season) => {
                const here = of(season)[i];
                return (
                  <td key={season} data-step={here?.step ?? undefined}>
                    {here?.step ? STEPS[here.step] : "–"}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <Text className="quiet">Soil: about, by the mean air of ten days.</Text>
      {days.some((day) => day.warm_night) && (
        <Text className="quiet">Nights in bold are so warm that grass hardly recovers.</Text>
      )}
      {seasons.map(
        (season) =>
          of(season).some((day) => day.warm_soil) && (
            <Text key={season} className="quiet">
              The soil becomes warmer than roots of {SEASONS[season].toLowerCase()} grass like: they shorten.
            </Text>
          ),
      )}
    </section>
  );
}

function CoolingTimes({ zones }: { zones: ZoneStress[] }) {
  const units = useUnits();
  return (
    <details>
      <summary>Cooling leaves at midday, on top of the deep watering: disputed</summary>
      <Text>
        Some cool leaves in extreme heat with a little water at midday; it lasts about an hour and does nothing in humid
        air, and leaves that stay wet fall ill. It is off: nothing here is planned or run by itself. If you do it, keep
        to these times, and never late in the day.
      </Text>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
      <section className={classes.scroll} tabIndex={0} aria-label="Cooling at midday">
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">Zone</th>
              <th scope="col">Day</th>
              <th scope="col">Between</th>
              <th scope="col">Depth</th>
              <th scope="col">Sprinklers</th>
              <th scope="col">Water</th>
            </tr>
          </thead>
          <tbody>
            {zones.flatMap((z) =>
              z.cooling.map((c) => (
                <tr key={`${z.zone} ${c.date}`}>
                  <th scope="row">{z.name}</th>
                  <td>{shortDay(c.date)}</td>
                  {c.not ? (
                    <td colSpan={4}>{notCoolingWords(c.not)}</td>
                  ) : (
                    <>
                      <td>
                        {c.from.slice(0, 5)} and {c.to.slice(0, 5)}
                      </td>
                      <td>{units.show("depth", c.depth_mm)}</td>
                      <td>{minutesSeconds(c.seconds)}</td>
                      <td>{whole(units, c.litres)}</td>
                    </>
                  )}
                </tr>
              )),
            )}
          </tbody>
        </table>
      </section>
    </details>
  );
}
