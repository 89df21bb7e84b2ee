import { Button, NativeSelect, Stack } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import type { Schemas, SiteView } from "../../api";
import { addDays, dayMonth, shortDay } from "../../time";
import { useUnits } from "../../units";
import { useRights } from "../session/rights";
import { Failed, Loading, Refused } from "../shell/States";
import { CorrectDay } from "../weather/CorrectDay";
import { DayByHand } from "../weather/DayByHand";
import { Devices } from "../weather/Devices";
import { NormalsForm } from "../weather/NormalsForm";
import { FeedSection } from "./FeedSection";
import { Gauge } from "./Gauge";
import { ImportWeather } from "./ImportWeather";
import { useRainChoice, weatherQuery } from "./queries";
import classes from "./SitePage.module.css";

const DAYS_SHOWN = 14;

export function WeatherPanel({ site, view }: { site: string; view: SiteView }) {
  const rights = useRights(site);
  return (
    <div className={classes.columns}>
      <Stack gap="xl">
        <FeedSection site={site} view={view} />
        {rights.record && <Gauge site={site} view={view} />}
        {rights.manage && <ImportWeather site={site} />}
        {rights.manage && <Devices site={site} timeZone={view.site.time_zone} />}
      </Stack>
      <Stack gap="xl">
        <Recent site={site} view={view} />
        {rights.manage && (
          <section>
            <h2>Normals of the months</h2>
            <NormalsForm key={view.version} site={site} view={view} />
          </section>
        )}
      </Stack>
    </div>
  );
}

const ORIGINS: Record<string, string> = {
  typed: "by hand",
  upload: "file",
  pushed: "station",
  service: "service",
  gauge: "gauge alone",
};

/** Where a day's figures, and its rain, come from. */
function fromWords(row: Schemas["WeatherRow"]): string {
  const rest = ORIGINS[row.origin] ?? row.origin;
  if (row.origin === "gauge") return rest;
  if (row.by_gauge) return `${rest}; rain by the gauge`;
  return row.chosen === "station" ? `${rest}; gauge set aside` : rest;
}

function Recent({ site, view }: { site: string; view: SiteView }) {
  const { today } = view;
  const units = useUnits();
  const { manage, record } = useRights(site);
  const choose = useRainChoice(site);
  const [corrected, setCorrected] = useState<string>();
  const from = addDays(today, -DAYS_SHOWN);
  const to = addDays(today, -1);
  const weather = useQuery(weatherQuery(site, from, to));
  if (weather.isPending) return <Loading what="the weather" />;
  if (weather.error) return <Failed message={weather.error.message} retry={() => weather.refetch()} />;
  const days = Array.from({ length: DAYS_SHOWN }, (_, i) => addDays(to, -i));
  const row = (date: string) => weather.data.days.find((d) => d.day.date === date);
  const missing = days.filter((date) => !row(date)).reverse();
  const both = (date: string) => row(date)?.gauge_rain_mm != null && row(date)?.station_rain_mm != null;
  const figure = (quantity: "temperature" | "depth", value: number | null | undefined) =>
    value == null ? "–" : units.figure(quantity, value);
  return (
    <section>
      <h2>The last {DAYS_SHOWN} days</h2>
      <Refused error={choose.error} />
      {missing.length > 0 && (
        <p className="quiet">
          {view.site.normals
            ? `Days that are missing count by the months’ normals, rain too${view.rough_normals.are_kept ? "; these normals are a rough guess by the place" : ""}.`
            : "Days that are missing are filled with the recent mean, without rain."}
        </p>
      )}
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Day</th>
            <th scope="col" className={classes.figure}>
              Low, {units.label("temperature")}
            </th>
            <th scope="col" className={classes.figure}>
              High
            </th>
            <th scope="col" className={classes.figure}>
              Rain, {units.label("depth")}
            </th>
            <th scope="col" className={classes.figure}>
              ET
            </th>
            <th scope="col">From</th>
          </tr>
        </thead>
        <tbody>
          {days.map((date) => {
            const found = row(date);
            return (
              <Fragment key={date}>
                <tr>
                  <th scope="row">{shortDay(date)}</th>
                  <td className={classes.figure}>{figure("temperature", found?.day.tmin_c)}</td>
                  <td className={classes.figure}>{figure("temperature", found?.day.tmax_c)}</td>
                  <td className={classes.figure}>{figure("depth", found?.day.rain_mm)}</td>
                  <td className={classes.figure}>{figure("depth", found?.et0_mm)}</td>
                  <td>
                    {!found ? (
                      "missing"
                    ) : manage && both(date) ? (
                      <NativeSelect
                        size="xs"
                        aria-label={`Whose rain counts on ${dayMonth(date)}`}
                        value={found.chosen ?? "automatic"}
                        onChange={(e) => choose.mutate({ date, counts: e.currentTarget.value as Schemas["Counts"] })}
                        data={[
                          { value: "automatic", label: `gauge ${figure("depth", found.gauge_rain_mm)}, by the rule` },
                          { value: "gauge", label: `gauge ${figure("depth", found.gauge_rain_mm)}, chosen` },
                          { value: "station", label: `station ${figure("depth", found.station_rain_mm)}, chosen` },
                        ]}
                      />
                    ) : (
                      fromWords(found)
                    )}
                    {record && found && (
                      <Button
                        size="compact-xs"
                        variant="subtle"
                        aria-expanded={corrected === date}
                        aria-label={`Correct ${dayMonth(date)}`}
                        onClick={() => setCorrected(corrected === date ? undefined : date)}
                      >
                        Correct
                      </Button>
                    )}
                  </td>
                </tr>
                {found && corrected === date && (
                  <tr>
                    <td colSpan={6}>
                      <CorrectDay
                        site={site}
                        timeZone={view.site.time_zone}
                        row={found}
                        onDone={() => setCorrected(undefined)}
                      />
                    </td>
                  </tr>
                )}
              </Fragment>
            );
          })}
        </tbody>
      </table>
      {record && missing.length > 0 && (
        <div className={classes.told}>
          <DayByHand site={site} today={today} timeZone={view.site.time_zone} missing={missing} />
        </div>
      )}
    </section>
  );
}
