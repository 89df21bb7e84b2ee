// What changed since yesterday's plan: nothing changes behind a person's back.
import type { Schemas, WeekPlan } from "../../api";
import { minutes, sentenceCase, whenDay } from "../../time";
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

export function Changes({ plan, changes }: { plan: WeekPlan; changes: Change[] }) {
  const name = (zone: string) => plan.zones.find((z) => z.zone === zone)?.name ?? zone;
  return (
    <section>
      <h2>Changed since yesterday</h2>
      {changes.length === 0 ? (
        <p className={classes.plain}>Nothing.</p>
      ) : (
        <ul className={classes.list}>
          {[...new Set(changes.map((c) => c.zone))].map((zone) => (
            <li key={zone}>
              <strong>{name(zone)}</strong>
              <span>
                {changes
                  .filter((c) => c.zone === zone)
                  .map((c) => sentenceCase(changeWords(c, plan.today)))
                  .join(" ")}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
