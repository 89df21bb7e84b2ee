import { Button, Text } from "@mantine/core";
import { useState } from "react";
import type { Cell, WeekPlan, ZonePlan } from "../../api";
import { clock, daysBetween, longDay, minutes, moment, whenDay } from "../../time";
import { useUnits } from "../../units";
import { ZoneCore } from "../core-sample/ZoneCore";
import { Working } from "../reasons/Working";
import { grassName, sentence } from "../reasons/words";
import { useRights } from "../session/rights";
import { Changes } from "./Changes";
import { ClockLine } from "./ClockLine";
import classes from "./MorningPage.module.css";
import { PlanGate, type Planned } from "./PlanGate";
import { useReplan } from "./queries";
import { Today } from "./Today";

const WORDS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];
const count = (n: number) => WORDS[n] ?? String(n);
const zones = (n: number) => `${count(n)} zone${n === 1 ? "" : "s"}`;

export function MorningPage() {
  return <PlanGate what="the plan">{(planned) => <Morning {...planned} />}</PlanGate>;
}

function Morning({ site, plan, changes, view }: Planned) {
  const replan = useReplan(site);
  const { record } = useRights(site);
  const age = daysBetween(plan.today, view.today);
  return (
    <main className={classes.page}>
      <div className={classes.main}>
        {view.trouble && (
          <div className={classes.old} role="alert">
            <span>
              This site has not been planned anew since {moment(view.trouble.since, plan.time_zone)}:{" "}
              {view.trouble.what}. It is tried again every ten minutes. Water by the plan below with care, and tell
              whoever runs the server.
            </span>
          </div>
        )}
        {age > 0 && (
          <div className={classes.old} role="status">
            <span>
              This plan was made {age === 1 ? "yesterday" : `${age} days ago`}, on {longDay(plan.today)}.
            </span>
            {record && (
              <Button size="xs" loading={replan.isPending} onClick={() => replan.mutate()}>
                Plan again
              </Button>
            )}
          </div>
        )}
        <Headline plan={plan} />
        <ClockLine plan={plan} />
        <ZoneLines plan={plan} />
        <Changes plan={plan} changes={changes} />
      </div>
      <Today plan={plan} site={site} now={view.now} />
    </main>
  );
}

function Headline({ plan }: { plan: WeekPlan }) {
  const next = plan.next;
  const planned = plan.zones.filter((z) => z.regime === "established");
  if (!next) {
    return (
      <div>
        <h1>Nothing to water this week.</h1>
        <Text className="quiet">No zone reaches its limit in the plan, or no day allows it: see each zone.</Text>
      </div>
    );
  }
  const watering = next.zones.length;
  const holding = planned.length - watering;
  const when = whenDay(next.date, plan.today);
  const sunrise = plan.days.find((d) => d.date === next.date)?.sunrise;
  const verdict = `Water ${zones(watering)} ${when}${holding > 0 ? `, hold ${count(holding)}` : ""}.`;
  const times =
    next.starts && next.ends
      ? `${longDay(next.date)}, ${clock(next.starts, plan.time_zone)} to ${clock(next.ends, plan.time_zone)}${sunrise ? `; the sun rises at ${clock(sunrise, plan.time_zone)}` : ""}.`
      : `${longDay(next.date)}, by hand at any allowed hour.`;
  return (
    <div>
      <h1>{verdict}</h1>
      <Text className="quiet">{times}</Text>
    </div>
  );
}

/** The cell of the next opportunity: what is decided for the zone now. */
function nextCell(zone: ZonePlan, plan: WeekPlan): { cell: Cell; index: number } | undefined {
  const next = plan.next?.date;
  const from = plan.days.findIndex((d) => d.date === plan.today);
  const at = zone.cells.findIndex(
    (c, i) => i >= from && (next ? c.date === next : ["water", "hold", "skip", "new_seed", "off"].includes(c.state)),
  );
  const index = at >= 0 ? at : from;
  const cell = zone.cells[index];
  return cell && { cell, index };
}

function ZoneLines({ plan }: { plan: WeekPlan }) {
  const deepest = Math.max(...plan.zones.map((z) => z.root_depth_mm));
  return (
    <ul className={classes.zones} aria-label="Zones">
      {plan.zones.map((zone) => (
        <ZoneLine key={zone.zone} zone={zone} plan={plan} deepest={deepest} />
      ))}
    </ul>
  );
}

function ZoneLine({ zone, plan, deepest }: { zone: ZonePlan; plan: WeekPlan; deepest: number }) {
  const [open, setOpen] = useState(false);
  const units = useUnits();
  const found = nextCell(zone, plan);
  if (!found || found.cell.state === "absent") return null;
  const { cell } = found;
  const start = cell.run?.starts[0];
  return (
    <li className={classes.zone}>
      <ZoneCore
        zone={zone}
        cell={cell}
        tense={cell.date === plan.today ? "today" : "ahead"}
        deepest={deepest}
        width={28}
        height={58}
      />
      <div className={classes.name}>
        <h2>{zone.name}</h2>
        <span className="quiet">{grassName(zone.grass)}</span>
      </div>
      <div className={classes.verdict}>
        <div>
          <Verdict zone={zone} cell={cell} plan={plan} />
        </div>
        <div className={classes.reason}>{sentence(cell, plan.today, units)}</div>
      </div>
      <div className={classes.start}>
        {start ? clock(start, plan.time_zone) : cell.run ? "by hose" : ""}
        {zone.regime === "established" && (
          <button type="button" className={classes.why} onClick={() => setOpen(true)} aria-label={`Why, ${zone.name}`}>
            Why
          </button>
        )}
      </div>
      <Working zone={zone} cell={cell} today={plan.today} opened={open} onClose={() => setOpen(false)} />
    </li>
  );
}

function Verdict({ zone, cell, plan }: { zone: ZonePlan; cell: Cell; plan: WeekPlan }) {
  if (cell.run) {
    const split = cell.run.passes > 1 ? ` in ${cell.run.passes} ${zone.by_hand ? "moves" : "passes"}` : "";
    return (
      <>
        <strong className={classes.water}>Water</strong> {minutes(cell.run.run_s)}
        {split}
      </>
    );
  }
  if (cell.state === "new_seed") return <strong>By hand: new seed</strong>;
  if (cell.state === "off") return <strong>Off</strong>;
  if (cell.state === "skip") return <strong className={classes.skip}>Skip</strong>;
  const later = zone.cells.find((c) => c.date > cell.date && c.run);
  return (
    <>
      <strong>Hold</strong> {later ? `until ${whenDay(later.date, plan.today)}` : "all week"}
    </>
  );
}
