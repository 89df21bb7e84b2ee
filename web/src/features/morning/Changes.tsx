// What changed since yesterday's plan: nothing changes behind a person's back.
import type { Schemas, WeekPlan } from "../../api";
import type { Shown } from "../../quantities";
import { minutes, sentenceCase, whenDay } from "../../time";
import { useUnits } from "../../units";
import classes from "./Today.module.css";

type Change = Schemas["Change"];

/** A change in words, without the zone. */
export function changeWords(change: Change, today: string): string {
  switch (change.change) {
    case "added":
      return `waters ${whenDay(change.date, today)}, ${minutes(change.run_s)}, which was not planned.`;
    case "dropped":
      return `no longer waters ${whenDay(change.date, today)} (${minutes(change.run_s)}).`;
    case "moved":
      return `moved from ${whenDay(change.from, today)} to ${whenDay(change.to, today)}, ${minutes(change.run_s)}.`;
    case "minutes": {
      const passes =
        change.from_passes != null && change.to_passes != null && change.from_passes !== change.to_passes
          ? `, passes ${change.from_passes} → ${change.to_passes}`
          : "";
      return `${whenDay(change.date, today)}: ${minutes(change.from_s)} → ${minutes(change.to_s)}${passes}.`;
    }
  }
}

/** What brought a change about, within a sentence. */
function causeWords(cause: Schemas["Cause"], today: string, units: Shown): string {
  const depth = (mm: number) => units.show("depth", mm);
  switch (cause.cause) {
    case "rained":
      return `${depth(cause.rain_mm)} of rain fell, ${depth(cause.expected_mm)} had been expected`;
    case "forecast":
      return `the forecast is ${cause.to_mm > cause.from_mm ? "wetter" : "drier"}: ${depth(cause.to_mm)} expected, ${depth(cause.from_mm)} before`;
    case "reference_et":
      return `the days ahead are ${cause.to_mm > cause.from_mm ? "hotter or windier" : "cooler or stiller"}: reference ET ${depth(cause.to_mm)}, ${depth(cause.from_mm)} before`;
    case "gauge_read":
      return `${depth(cause.rain_mm)} in the gauge for ${whenDay(cause.date, today)}`;
    case "run_said":
      return cause.answer === "denied"
        ? `somebody said that it did not run ${whenDay(cause.date, today)}`
        : cause.answer === "changed"
          ? `somebody said that it ran for another time ${whenDay(cause.date, today)}`
          : `somebody took back what was said of ${whenDay(cause.date, today)}`;
    case "watered_by_hand":
      return `it was watered by hand or hose ${whenDay(cause.date, today)}`;
    case "zone_changed":
      return "its settings were changed";
    case "site_changed":
      return "hours, supply or place were changed";
    case "regime_turned":
      return cause.regime === "dormant"
        ? "it was let go"
        : cause.regime === "recovering"
          ? "it is woken"
          : "it is watered as green turf";
    case "runs_imported":
      return "runs were imported from a file";
    case "rules_changed":
      return "the local rules were changed";
    case "soil_tested":
      return "its soil was tested";
    case "seen":
      return "something was seen of it, or read off a probe";
    case "tested":
      return "its sprinklers were tested";
    case "day_edited":
      return `somebody changed ${whenDay(cause.date, today)}`;
    case "passes_missed":
      return `the controller did not run all of it ${whenDay(cause.date, today)}`;
    case "hours_asked":
      return "somebody changed what is asked of it for some hours";
    case "dry_day":
      return `somebody changed whether it is kept dry ${whenDay(cause.date, today)}`;
    case "weather_changed":
      return "weather of past days was changed";
    case "other_zones":
      return "other zones leave it another time";
  }
}

export function Changes({ plan, changes }: { plan: WeekPlan; changes: Schemas["ZoneChanges"][] }) {
  return (
    <section>
      <h2>Changed since yesterday</h2>
      {changes.length === 0 ? (
        <p className={classes.plain}>Nothing.</p>
      ) : (
        <ChangesByZone plan={plan} changes={changes} />
      )}
    </section>
  );
}

/** What changed, zone by zone, each with what may have brought it about. */
export function ChangesByZone({ plan, changes }: { plan: WeekPlan; changes: Schemas["ZoneChanges"][] }) {
  const units = useUnits();
  // What happened between the two plans: whether it brought the change about has not been tried.
  const meanwhile = (z: Schemas["ZoneChanges"]) =>
    `Meanwhile: ${z.causes.map((c) => causeWords(c, plan.today, units)).join("; ")}.`;
  // Where all have one cause it is said once.
  const [first, ...rest] = changes.map(meanwhile);
  const shared = rest.every((b) => b === first) ? first : undefined;
  const name = (zone: string) => plan.zones.find((z) => z.zone === zone)?.name ?? zone;
  return (
    <ul className={classes.list}>
      {shared && <li className="quiet">{shared}</li>}
      {changes.map((z) => (
        <li key={z.zone}>
          <strong>{name(z.zone)}</strong>
          <span>{z.changes.map((c) => sentenceCase(changeWords(c, plan.today))).join(" ")}</span>
          {!shared && <span className="quiet">{meanwhile(z)}</span>}
        </li>
      ))}
    </ul>
  );
}
