// The side of Morning: what needs a person, what ran, the weather behind it.
import { Link } from "@tanstack/react-router";
import type { WeekPlan } from "../../api";
import { dayMonth, minutes, shortDay, whenDay } from "../../time";
import { useUnits } from "../../units";
import { find, warnings } from "../reasons/words";
import classes from "./Today.module.css";

export function Today({ plan, site }: { plan: WeekPlan; site: string }) {
  return (
    <aside className={classes.side} aria-label="Today">
      <Needs plan={plan} site={site} />
      <Ran plan={plan} />
      <Weather plan={plan} />
    </aside>
  );
}

function Needs({ plan, site }: { plan: WeekPlan; site: string }) {
  const units = useUnits();
  const items: { key: string; what: string; detail: string }[] = [];
  const filled = find(plan.notes, "weather_filled");
  for (const zone of plan.zones) {
    if (zone.regime === "seedbed") {
      items.push({
        key: `${zone.zone}-seed`,
        what: zone.name,
        detail: "by hand: new seed, not planned here yet.",
      });
    }
    const hose = zone.by_hand ? zone.cells.find((c) => c.run && c.date === plan.next?.date) : undefined;
    if (hose?.run) {
      items.push({
        key: `${zone.zone}-hose`,
        what: `${zone.name}, by hose`,
        detail: `${whenDay(hose.date, plan.today)}: ${hose.run.passes} × ${minutes(hose.run.pass_s)}, at any allowed hour.`,
      });
    }
    const said = warnings(zone, plan.today, units);
    if (said.length > 0) items.push({ key: zone.zone, what: zone.name, detail: said.join(" ") });
  }
  return (
    <section>
      <h2>Needs a person</h2>
      {items.length === 0 && !filled && <p className={classes.plain}>Nothing today.</p>}
      <ul className={classes.list}>
        {filled && (
          <li>
            <strong>Weather is missing</strong>
            <span>
              {filled.days} of the last 7 days were filled with the recent mean, without rain; the last known is{" "}
              {dayMonth(filled.last_known)}.{" "}
              <Link to="/site/$site/settings" params={{ site }} search={{ tab: "weather" }}>
                Add it
              </Link>
            </span>
          </li>
        )}
        {items.map((item) => (
          <li key={item.key}>
            <strong>{item.what}</strong>
            <span>{item.detail}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Ran({ plan }: { plan: WeekPlan }) {
  const units = useUnits();
  const days = plan.days
    .map((day, index) => ({
      day,
      runs: plan.zones.flatMap((zone) =>
        (zone.cells[index]?.reasons ?? []).flatMap((r) => (r.reason === "ran" ? [{ zone, r }] : [])),
      ),
    }))
    .filter((d) => d.runs.length > 0)
    .reverse();
  const last = days[0];
  return (
    <section>
      <h2>What ran</h2>
      {!last && <p className={classes.plain}>Nothing in the last two days.</p>}
      {last && (
        <>
          <p className={classes.plain}>{sentenceCase(whenDay(last.day.date, plan.today))}, assumed from the plan:</p>
          <table className={classes.table}>
            <caption className="hidden">Runs of {shortDay(last.day.date)}</caption>
            <tbody>
              {last.runs.map(({ zone, r }) => (
                <tr key={`${zone.zone}-${r.seconds}`}>
                  <th scope="row">{zone.name}</th>
                  <td>{minutes(r.seconds)}</td>
                  <td>{units.show("depth", r.net_mm)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}

const sentenceCase = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

const ET_SOURCES: Record<string, string> = {
  "penman-monteith": "measured",
  "penman-monteith-estimated": "partly estimated",
  hargreaves: "from temperature",
  filled: "filled",
  forecast: "forecast",
  "recent-mean": "recent mean",
};

function Weather({ plan }: { plan: WeekPlan }) {
  const units = useUnits();
  return (
    <section>
      <h2>Rain and reference ET</h2>
      <table className={classes.table}>
        <caption className="hidden">Rain and reference ET by day</caption>
        <thead>
          <tr>
            <th scope="col">Day</th>
            <th scope="col">Rain, {units.label("depth")}</th>
            <th scope="col">ET, {units.label("depth")}</th>
            <th scope="col">Source</th>
          </tr>
        </thead>
        <tbody>
          {plan.days.slice(0, 7).map((day) => (
            <tr key={day.date} data-today={day.date === plan.today || undefined}>
              <th scope="row">{shortDay(day.date)}</th>
              <td>
                {day.rain_mm != null
                  ? units.figure("depth", day.rain_mm)
                  : day.forecast_rain_mm != null
                    ? `${Math.round(day.rain_probability_pct ?? 0)} % of ${units.figure("depth", day.forecast_rain_mm)}`
                    : "–"}
              </td>
              <td>{units.figure("depth", day.et0_mm)}</td>
              <td>{ET_SOURCES[day.et0_from] ?? day.et0_from}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={classes.note}>Rain that is only forecast is shown, not counted.</p>
    </section>
  );
}
