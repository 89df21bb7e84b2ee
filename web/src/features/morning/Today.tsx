// The side of Morning: what needs a person, what ran, the weather behind it.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { SiteView, WeekPlan } from "../../api";
import { addDays, ago, dayMonth, daysBetween, sentenceCase, shortDay, whenDay } from "../../time";
import { useUnits } from "../../units";
import { findingsQuery, metersQuery } from "../book/queries";
import { allFindings } from "../book/words";
import { NewGrassToday } from "../new-grass/NewGrassToday";
import { keptQuery } from "../new-grass/queries";
import { pointName } from "../new-grass/words";
import { runWords } from "../reasons/run";
import { Term } from "../reasons/Term";
import { unfed } from "../reasons/unfed";
import { goesTooDry, LEAST_SHOWN_PCT, warnings } from "../reasons/words";
import { Ran } from "../runs/Ran";
import { useRights } from "../session/rights";
import { Gauge } from "../site/Gauge";
import { feedQuery } from "../site/queries";
import { JarsDue } from "../soil/JarsDue";
import { jars } from "../soil/kept";
import { headFaultsQuery, wetChecksQuery } from "../sprinklers/queries";
import { FAULTS, wetDueWords } from "../sprinklers/words";
import { stressQuery } from "../stress/queries";
import { STEPS_OF_RECOVERY, stepWords } from "../stress/recoveryWords";
import { dueTogether, proposalWords } from "../stress/words";
import { DayByHand } from "../weather/DayByHand";
import classes from "./Today.module.css";

type Props = { plan: WeekPlan; site: string; view: SiteView };

export function Today({ plan, site, view }: Props) {
  const { record } = useRights(site);
  const missing = plan.notes.find((n) => n.note === "weather_missing");
  return (
    <aside className={classes.side} aria-label="Today">
      {plan.zones.some((zone) => zone.new_grass) && (
        <section className={classes.first}>
          <h2>New grass</h2>
          <ul className={classes.list}>
            <NewGrassToday site={site} plan={plan} view={view} />
          </ul>
        </section>
      )}
      <div className={classes.needs}>
        <Needs plan={plan} site={site} view={view} />
      </div>
      <div className={classes.ran}>
        <Ran site={site} today={plan.today} timeZone={plan.time_zone} />
      </div>
      {record && missing && (
        <div className={classes.gauge}>
          <DayByHand site={site} today={plan.today} timeZone={plan.time_zone} missing={missing.dates} />
        </div>
      )}
      {record && !missing?.dates.includes(addDays(plan.today, -1)) && (
        <div className={classes.gauge}>
          <Gauge site={site} view={view} brief />
        </div>
      )}
      <div className={classes.weather}>
        <Weather plan={plan} />
      </div>
    </aside>
  );
}

/** Days before and after a day of a kept plan on which it is said. */
const SOON_DAYS = 3;

type Item = { key: string; what: string; detail: string };

/** Zones that go too dry in spite of the plan, in one line each of those that rain may help and the rest. */
function tooDry(plan: WeekPlan): Item[] {
  const found = plan.zones.flatMap((zone) => {
    const dry = goesTooDry(zone);
    return dry ? [{ name: zone.name, ...dry }] : [];
  });
  return [true, false].flatMap((waits) => {
    const these = found.filter((f) => f.waits === waits);
    const days = [...new Set(these.map((f) => f.date))].sort();
    if (these.length === 0) return [];
    const by = days.map(
      (date) =>
        `${these
          .filter((f) => f.date === date)
          .map((f) => f.name)
          .join(", ")} ${whenDay(date, plan.today)}`,
    );
    return [
      {
        key: `dry-${waits}`,
        what: waits ? "Too dry if no rain comes" : "Too dry in spite of the plan",
        detail: `${by.join("; ")}. Hose ${these.length === 1 ? "it" : "them"} then, or accept some browning.`,
      },
    ];
  });
}

function Needs({ plan, site, view }: Props) {
  const units = useUnits();
  const feed = useQuery(feedQuery(site));
  const silent = feed.data?.connected && feed.data.failures > 0 ? feed.data : undefined;
  const faults = useQuery(headFaultsQuery(site));
  const wet = useQuery(wetChecksQuery(site));
  const metered = useQuery(findingsQuery(site));
  const byMeters = allFindings(metered.data, units, plan.time_zone, view.site.currency);
  const items: Item[] = byMeters.map((f) => ({ key: f.key, what: f.title, detail: f.detail }));
  const meters = useQuery(metersQuery(site));
  for (const m of meters.data?.filter((m) => m.due) ?? []) {
    const last = m.last ? `Last read ${ago(m.last.at, view.now)}, and water ran since` : "Never read";
    items.push({
      key: `meter-${m.id}`,
      what: `Read the meter ${m.meter.name}`,
      detail: `${last}: Water book, Read it.`,
    });
  }
  const sowings = useQuery(keptQuery(site));
  for (const { zone, zone_name, kept } of sowings.data ?? []) {
    const days = [
      { what: "spray" as const, on: kept.spray },
      { what: "soil_work" as const, on: kept.soil_work },
      { what: "sow" as const, on: kept.sow },
    ];
    for (const { what, on } of days) {
      if (!on || Math.abs(daysBetween(plan.today, on)) > SOON_DAYS) continue;
      items.push({
        key: `${zone}-${what}`,
        what: `${zone_name}: ${pointName(what, kept.method).toLowerCase()}`,
        detail: `${sentenceCase(whenDay(on, plan.today))}, by the plan that was kept. New grass, Plan new grass.`,
      });
    }
  }
  const stress = useQuery(stressQuery(site));
  for (const z of stress.data?.zones ?? []) {
    if (!z.proposes || !stress.data) continue;
    const letGo = z.proposes.proposes === "let_go";
    items.push({
      key: `${z.zone}-stress`,
      what: `${z.name}: ${letGo ? "it falls asleep" : "it can wake"}`,
      detail: `${proposalWords(z.proposes, stress.data.rules, units)} Decide on Stress.`,
    });
  }
  for (const { zone, name, recovery } of stress.data?.zones ?? []) {
    const now = recovery?.steps.filter((step) => step.when === "now") ?? [];
    if (!recovery || now.length === 0) continue;
    items.push({
      key: `${zone}-recovery`,
      what: `${name} wakes`,
      detail: `${now.map((step) => `${STEPS_OF_RECOVERY[step.step]} ${stepWords(step, recovery, plan.today)}`).join(" ")} Stress, Recovery and repair.`,
    });
  }
  for (const { zone, name, verdict } of unfed(plan)) {
    items.push({
      key: `${zone}-unfed`,
      what: `${name}: the supply cannot feed it`,
      detail: `It takes ${units.show("flow", verdict.flow_l_min)} by what is known of it; the supply gives ${units.show("flow", verdict.supply_l_min)}. Measure what it really takes (Sprinklers, by a meter), put fewer heads on at a time, or fit smaller nozzles. Until then it gets nothing.`,
    });
  }
  const walks = stress.data?.zones.filter((z) => z.walk_due) ?? [];
  const missing = plan.notes.find((n) => n.note === "weather_missing");
  for (const zone of plan.zones) {
    const hose =
      zone.by_hand && !zone.new_grass ? zone.cells.find((c) => c.run && c.date === plan.next?.date) : undefined;
    if (hose?.run) {
      items.push({
        key: `${zone.zone}-hose`,
        what: `${zone.name}, by hose`,
        detail: `${sentenceCase(whenDay(hose.date, plan.today))}: ${runWords(hose.run)}, at any allowed hour.`,
      });
    }
    if (zone.lawn_from && zone.lawn_from <= plan.today) {
      items.push({
        key: `${zone.zone}-lawn`,
        what: `${zone.name} is a lawn now`,
        detail: "Its roots are as deep as the lawn’s. Say so on New grass.",
      });
    }
    const said = warnings(zone, plan.today, units);
    if (said.length > 0) items.push({ key: zone.zone, what: zone.name, detail: said.join(" ") });
  }
  items.push(...tooDry(plan));
  for (const f of faults.data ?? []) {
    if (f.mended_on || (f.due_on && f.due_on > plan.today)) continue;
    const name = plan.zones.find((z) => z.zone === String(f.zone))?.name;
    if (!name) continue;
    const due = !f.due_on
      ? `noted ${dayMonth(f.noted_on)}, no day set`
      : f.due_on === plan.today
        ? "due today"
        : `due ${whenDay(f.due_on, plan.today)}, overdue`;
    items.push({ key: `fault-${f.id}`, what: `${name}, head ${f.head}`, detail: `${FAULTS[f.fault]}, ${due}.` });
  }
  return (
    <section>
      <h2>Needs a person</h2>
      {items.length === 0 && walks.length === 0 && !missing && !silent && !wet.data?.due && jars(site).length === 0 && (
        <p className={classes.plain}>Nothing today.</p>
      )}
      <ul className={classes.list}>
        {silent && (
          <li>
            <strong>The weather service is silent</strong>
            <span>
              {silent.last_success_at ? `Last heard ${ago(silent.last_success_at, view.now)}` : "Never heard yet"};{" "}
              {silent.last_error}. The plan goes on with what is here.
            </span>
          </li>
        )}
        {missing && (
          <li>
            <strong>Weather is missing</strong>
            <span>
              Nobody told of {daysWords(missing.dates)}:{" "}
              {missing.by_normals
                ? "the months’ normals stand for it, rain too"
                : "filled with the recent mean, without rain"}
              {missing.last_known && `; the last day known is ${dayMonth(missing.last_known)}`}.{" "}
              <Link to="/site/$site/settings" params={{ site }} search={{ tab: "weather" }}>
                Add it
              </Link>
            </span>
          </li>
        )}
        <JarsDue site={site} plan={plan} view={view} />
        {wet.data?.due && (
          <li>
            <strong>Wet check</strong>
            <span>
              {wetDueWords(wet.data.due)}{" "}
              <Link to="/site/$site/sprinklers/wet-check" params={{ site }}>
                Walk each zone while it runs
              </Link>
            </span>
          </li>
        )}
        {walks.length > 0 && (
          <li>
            <strong>Walk the lawn</strong>
            <span>
              {sentenceCase(dueTogether(walks, plan.today, units))}.{" "}
              <Link to="/site/$site/stress/walk" params={{ site }}>
                Walk it
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

/** `3 June`, `3, 4 and 5 June`, `9 of the last days`. */
function daysWords(dates: string[]): string {
  const last = dates.at(-1);
  if (!last || dates.length === 1) return last ? dayMonth(last) : "";
  if (dates.length > 4) return `${dates.length} of the last 14 days`;
  return `${dates.slice(0, -1).map(dayMonth).join(", ")} and ${dayMonth(last)}`;
}

const ET_SOURCES: Record<string, string> = {
  "penman-monteith": "measured",
  "penman-monteith-estimated": "partly estimated",
  hargreaves: "from temperature",
  filled: "filled",
  forecast: "forecast",
  "recent-mean": "recent mean",
  normals: "normals",
};

function Weather({ plan }: { plan: WeekPlan }) {
  const units = useUnits();
  const byNormals = plan.notes.some((n) => n.note === "et_ahead" && n.by_normals);
  return (
    <section>
      <h2>
        Rain and <Term name="reference ET" />
      </h2>
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
                  ? `${day.rain_expected ? "≈ " : ""}${units.figure("depth", day.rain_mm)}`
                  : day.forecast_rain_mm != null
                    ? (day.rain_probability_pct ?? 0) < LEAST_SHOWN_PCT
                      ? "dry"
                      : `${Math.round(day.rain_probability_pct ?? 0)} % of ${units.figure("depth", day.forecast_rain_mm)}`
                    : "–"}
              </td>
              <td>{day.et0_from === "filled" && day.et0_mm === 0 ? "–" : units.figure("depth", day.et0_mm)}</td>
              <td>
                {day.et0_from === "filled" && day.et0_mm === 0
                  ? "not known"
                  : (ET_SOURCES[day.et0_from] ?? day.et0_from)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {byNormals && (
        <p className={classes.note}>
          Fewer than four of the last seven days are known: what lies ahead goes by the months’ normals, give or take a
          fifth. Each day that is told makes it surer.
        </p>
      )}
      <p className={classes.note}>
        Forecast rain is weighed where a zone is due: hold, or leave room. It never counts as fallen.
      </p>
    </section>
  );
}
