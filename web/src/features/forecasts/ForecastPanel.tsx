// How past forecasts and holds for rain turned out.
import { Text } from "@mantine/core";
import { queryOptions, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { dayMonth, shortDay } from "../../time";
import { useUnits } from "../../units";
import { Failed, Loading } from "../shell/States";
import classes from "../site/SitePage.module.css";
import chart from "./ForecastPanel.module.css";

const recordQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "forecast-record"],
    queryFn: () =>
      unwrap(client.GET("/api/v1/sites/{site}/forecast-record", { params: { path: { site: Number(site) } } })),
  });

type Record_ = Schemas["ForecastRecord"];

export function ForecastPanel({ site }: { site: string }) {
  const record = useQuery(recordQuery(site));
  if (record.isPending) return <Loading what="the record of forecasts" />;
  if (record.error) return <Failed message={record.error.message} retry={() => record.refetch()} />;
  const days = record.data.forecasts.reliability.reduce((sum, bin) => sum + bin.days, 0);
  if (days === 0 && record.data.holds.length === 0) {
    return (
      <Text>
        No forecast has met its day yet. Forecasts are kept as they were issued, and compared here with what came.
      </Text>
    );
  }
  return (
    <div className={classes.columns}>
      <section>
        <h2>Did it rain when they said so?</h2>
        <Text className="quiet">
          {dayMonth(record.data.from)} to {dayMonth(record.data.to)}, all leads. A bar that ends at its mark kept its
          word.
        </Text>
        <Reliability bins={record.data.forecasts.reliability} />
        <Leads record={record.data} />
      </section>
      <Holds holds={record.data.holds} />
    </div>
  );
}

function Reliability({ bins }: { bins: Schemas["Reliability"][] }) {
  return (
    <table className={`${classes.table} ${chart.table}`}>
      <caption className="hidden">Forecast probability against rain that fell</caption>
      <thead>
        <tr>
          <th scope="col">They said</th>
          <th scope="col">It rained on, % of the days</th>
          <th scope="col" className={classes.figure}>
            Said
          </th>
          <th scope="col" className={classes.figure}>
            Rained
          </th>
          <th scope="col" className={classes.figure}>
            Days
          </th>
        </tr>
      </thead>
      <tbody>
        {bins.map((bin) => {
          const wet = bin.days > 0 ? (100 * bin.wet) / bin.days : 0;
          return (
            <tr key={bin.from_pct}>
              <th scope="row">
                {bin.from_pct}–{bin.to_pct} %
              </th>
              <td>
                {bin.days === 0 ? (
                  <span className="quiet">no such day</span>
                ) : (
                  <div className={chart.scale}>
                    <div className={chart.bar} style={{ width: `${wet}%` }} />
                    <div className={chart.mark} style={{ left: `${bin.said_pct}%` }} />
                  </div>
                )}
              </td>
              <td className={classes.figure}>{bin.days > 0 ? `${Math.round(bin.said_pct)} %` : "–"}</td>
              <td className={classes.figure}>{bin.days > 0 ? `${Math.round(wet)} %` : "–"}</td>
              <td className={classes.figure}>{bin.days}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Leads({ record }: { record: Record_ }) {
  const units = useUnits();
  return (
    <>
      <h3>How far ahead</h3>
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Issued</th>
            <th scope="col" className={classes.figure}>
              Error of the high, {units.label("temperature_difference")}
            </th>
            <th scope="col" className={classes.figure}>
              Better than the mere share of wet days
            </th>
          </tr>
        </thead>
        <tbody>
          {record.forecasts.leads
            .filter((l) => l.rain_days > 0)
            .map((l) => (
              <tr key={l.lead}>
                <th scope="row">{l.lead === 0 ? "that morning" : `${l.lead} day${l.lead === 1 ? "" : "s"} before`}</th>
                <td className={classes.figure}>{units.figure("temperature_difference", l.tmax_error_c)}</td>
                <td className={classes.figure}>{skill(l)}</td>
              </tr>
            ))}
        </tbody>
      </table>
    </>
  );
}

/** How much better the probabilities were than always saying the share of wet days. */
function skill(l: Schemas["LeadScore"]): string {
  if (l.brier_of_share <= 0) return "–";
  const pct = Math.round(100 * (1 - l.brier / l.brier_of_share));
  return pct > 0 ? `${pct} %` : "no better";
}

function Holds({ holds }: { holds: Schemas["HoldOutcome"][] }) {
  const units = useUnits();
  const decided = holds.filter((h) => h.decided);
  const came = decided.filter((h) => h.came);
  return (
    <section>
      <h2>Held for rain</h2>
      {holds.length === 0 ? (
        <Text mt="sm">No zone was held for rain in these days.</Text>
      ) : (
        <>
          <Text className="quiet">
            Decided so far: {decided.length}; rain came within three days to {came.length} of them.
          </Text>
          <table className={classes.table}>
            <thead>
              <tr>
                <th scope="col">Day</th>
                <th scope="col">Zone</th>
                <th scope="col" className={classes.figure}>
                  Chance said
                </th>
                <th scope="col" className={classes.figure}>
                  Rain that came, {units.label("depth")}
                </th>
              </tr>
            </thead>
            <tbody>
              {holds.map((h) => (
                <tr key={`${h.date}-${h.zone_name}`}>
                  <th scope="row">{shortDay(h.date)}</th>
                  <td>{h.zone_name}</td>
                  <td className={classes.figure}>{Math.round(h.probability_pct)} %</td>
                  <td className={classes.figure}>
                    {units.figure("depth", h.fell_mm)}
                    {h.decided ? (h.came ? "" : ", none") : " so far"}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}
