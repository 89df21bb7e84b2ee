// The week on paper: every day and every run on one page, and nothing that only a screen can do.
import type { SiteView, WeekPlan, ZonePlan } from "../../api";
import { clock, longDay, shortDay } from "../../time";
import type { Units } from "../../units";
import { runsOf, runWords } from "../reasons/run";
import classes from "./WeekSheet.module.css";

type Props = { plan: WeekPlan; view: SiteView; madeAt: string; units: Units };

export function WeekSheet({ plan, view, madeAt, units }: Props) {
  const days = plan.days.filter((d) => d.date >= plan.today);
  return (
    <section className={classes.sheet} aria-hidden>
      <h1>{view.site.name}</h1>
      <p>
        Watering from {longDay(plan.today)} to {longDay(days.at(-1)?.date ?? plan.today)}, as planned{" "}
        {longDay(plan.today)} at {clock(madeAt, plan.time_zone)}. If no rain comes:{" "}
        {units.show("volume", plan.totals.volume_l)}.
      </p>
      <table>
        <thead>
          <tr>
            <th>Zone</th>
            {days.map((d) => (
              <th key={d.date}>
                {shortDay(d.date)}
                <span>
                  {d.windows.length === 0
                    ? "no allowed hours"
                    : d.windows
                        .map((w) => `${clock(w.opens, plan.time_zone)}–${clock(w.closes, plan.time_zone)}`)
                        .join(", ")}
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {plan.zones.map((zone) => (
            <tr key={zone.zone}>
              <th>{zone.name}</th>
              {days.map((d) => (
                <td key={d.date}>{cellText(zone, d.date, plan.time_zone)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        Local rules on watering days and hours come first. Do not water on frost, in strong wind, or after a soaking
        rain.
      </p>
    </section>
  );
}

function cellText(zone: ZonePlan, date: string, timeZone: string): string {
  const cell = zone.cells.find((c) => c.date === date);
  if (!cell || cell.state === "absent") return "";
  if (cell.state === "skip") return "skip";
  if (!cell.run) return "–";
  return runsOf(cell)
    .map(
      (run) =>
        `${run.starts[0] ? `${clock(run.starts[0], timeZone)}: ` : zone.new_grass ? `by hand ${clock(run.window.opens, timeZone)}: ` : "by hose: "}${runWords(run)}`,
    )
    .join("; ");
}
