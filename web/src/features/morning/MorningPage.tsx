import { Button, Text } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Cell, SiteView, WeekPlan, ZonePlan } from "../../api";
import { clock, daysBetween, longDay, moment, sentenceCase, whenDay } from "../../time";
import { useUnits } from "../../units";
import { ZoneCore } from "../core-sample/ZoneCore";
import { Differs } from "../publishing/Differs";
import { runsOf, runWords, slotsWords } from "../reasons/run";
import { unfed } from "../reasons/unfed";
import { Working } from "../reasons/Working";
import { growsName, isNewGrass, sentence, staysDry, weekSum } from "../reasons/words";
import { Volumes } from "../rules/Volumes";
import { useRights } from "../session/rights";
import { Whole } from "../shell/Whole";
import { WhatWasSeen } from "../soil/WhatWasSeen";
import { WorthList } from "../soil/WorthList";
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
  return (
    <PlanGate what="the plan">
      {(planned) => (
        <Whole what="the plan">
          <Morning {...planned} />
        </Whole>
      )}
    </PlanGate>
  );
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
        <Differs site={site} plan={plan} className={classes.old} />
        <div className={classes.lead}>
          <Headline plan={plan} />
          <ClockLine plan={plan} />
          {plan.volumes.length > 0 && (
            <div className="quiet">
              <Volumes plan={plan} />
            </div>
          )}
        </div>
        <ZoneLines plan={plan} site={site} view={view} />
        <div className={classes.below}>
          <div className={classes.changes}>
            <Changes plan={plan} changes={changes} />
          </div>
          <div className={classes.lawn}>
            {record && <WhatWasSeen site={site} plan={plan} view={view} />}
            {plan.worth_measuring.length > 0 && (
              <section>
                <h2>Worth measuring next</h2>
                <WorthList plan={plan} view={view} site={site} most={1} record={record} />
                <p className={classes.more}>
                  <Link to="/site/$site/soil" params={{ site }}>
                    All that is worth measuring
                  </Link>
                </p>
              </section>
            )}
          </div>
        </div>
      </div>
      <Today plan={plan} site={site} view={view} />
    </main>
  );
}

/** The coming dawn first; then the next watering, with how likely it is to go ahead. */
function Headline({ plan }: { plan: WeekPlan }) {
  const day = plan.days.find((d) => d.date === plan.dawn);
  const { water } = plan.at_dawn;
  // Those that wait in the list below, but for what is switched off.
  const hold = plan.zones.filter((zone) => waits(cellOn(zone, plan.dawn))).length;
  const when = whenDay(plan.dawn, plan.today);
  const { next } = plan;
  const hand = newGrassByHand(plan, plan.dawn);
  if (water > 0 || hand.length > 0) {
    const chance = next && next.date === plan.dawn ? staysDry(next.chance_pct) : undefined;
    return (
      <div>
        <h1>
          {sentenceCase(when)}: water{" "}
          {[...(water > 0 ? [zones(water)] : []), ...(hand.length > 0 ? [byHandWords(hand)] : [])].join(" and ")}
          {hold > 0 ? `, hold ${count(hold)}` : ""}
          {chance ? ", if it stays dry" : ""}.
        </h1>
        <TodayByHand plan={plan} />
        {water > 0 ? (
          <Text className="quiet">
            {next && timesOf(next, plan)}
            {day?.sunrise && `; the sun rises at ${clock(day.sunrise, plan.time_zone)}`}.
            {chance && ` ${chance} % likely to go ahead: rain before may cancel it.`}
          </Text>
        ) : (
          <Text className="quiet">{next ? nextWords(next, plan) : "The clock waters no zone this week."}</Text>
        )}
      </div>
    );
  }
  const closed = day?.windows.length === 0;
  const short = unfed(plan);
  if (!next && short.length > 0) {
    return (
      <div>
        <h1>Nothing waters: the supply cannot feed {short.map(({ name }) => name).join(", ")}.</h1>
        <TodayByHand plan={plan} />
        <Text className="quiet">What would help stands under “Needs a person”.</Text>
      </div>
    );
  }
  return (
    <div>
      <h1>
        Nothing to water {when}
        {closed ? ": no allowed hours" : ""}.
      </h1>
      <TodayByHand plan={plan} />
      <Text className="quiet">
        {next ? nextWords(next, plan) : "No zone needs water this week, or no day allows it."}
      </Text>
    </div>
  );
}

/** Zones of new grass that somebody waters by hand on a day, with what is left of it. */
function newGrassByHand(plan: WeekPlan, date: string) {
  return plan.zones.flatMap((zone) => {
    const cell = zone.by_hand && zone.new_grass ? cellOn(zone, date) : undefined;
    const runs = cell ? runsOf(cell) : [];
    return runs.length > 0 ? [{ name: zone.name, runs }] : [];
  });
}

type ByHand = ReturnType<typeof newGrassByHand>;

/** `New corner by hand (3 times)`. */
const byHandWords = (hand: ByHand) =>
  hand.length > 2
    ? `${zones(hand.length)} by hand`
    : `${hand.map(({ name, runs }) => `${name}${runs.length > 1 ? ` (${runs.length} times)` : ""}`).join(" and ")} by hand`;

/** What is still to be watered by hand today, where the headline is about tomorrow. */
function TodayByHand({ plan }: { plan: WeekPlan }) {
  const hand = plan.dawn === plan.today ? [] : newGrassByHand(plan, plan.today);
  if (hand.length === 0) return null;
  return (
    <Text>
      <strong>Today still by hand: </strong>
      {hand
        .map(
          ({ name, runs }) =>
            `${name} ${runs.map((run) => `${runWords(run)} from ${clock(run.window.opens, plan.time_zone)}`).join(", ")}`,
        )
        .join("; ")}
      .
    </Text>
  );
}

type Next = NonNullable<WeekPlan["next"]>;

function timesOf(next: Next, plan: WeekPlan): string {
  if (!next.starts) return `${longDay(next.date)}, by hand at any allowed hour`;
  const runs = plan.zones.flatMap((z) => {
    const cell = cellOn(z, next.date);
    return cell ? runsOf(cell).filter((run) => run.starts.length > 0) : [];
  });
  // Each window by itself: between them nothing runs.
  const windows = [...new Set(runs.map((run) => run.window.opens))].sort();
  const spans = windows.flatMap((opens) => {
    const inside = runs.filter((run) => run.window.opens === opens);
    const starts = inside.flatMap((run) => run.starts.map((s) => new Date(s).getTime()));
    const ends = inside.flatMap((run) => run.starts.map((s) => new Date(s).getTime() + run.pass_s * 1000));
    const [from, to] = [Math.min(...starts), Math.max(...ends)].map((ms) => new Date(ms).toISOString());
    return from && to ? [`${clock(from, plan.time_zone)} to ${clock(to, plan.time_zone)}`] : [];
  });
  return `${longDay(next.date)}, ${spans.join(" and ")}`;
}

/** `Next, if it stays dry (31 % likely): Sunday, two zones, 03:12 to 05:40.` */
function nextWords(next: Next, plan: WeekPlan): string {
  const chance = staysDry(next.chance_pct);
  const dry = chance ? `, if it stays dry (${chance} % likely)` : "";
  return `Next${dry}: ${timesOf(next, plan)}, ${zones(next.zones.length)}.`;
}

const cellOn = (zone: ZonePlan, date: string) => zone.cells.find((c) => c.date === date);

const waits = (cell: Cell | undefined) => cell && !cell.run && cell.state !== "absent" && cell.state !== "off";

type LinesProps = { plan: WeekPlan; site: string; view: SiteView };

/** What waters at the coming dawn first, then what waits. */
function ZoneLines({ plan, site, view }: LinesProps) {
  const deepest = Math.max(...plan.zones.map((z) => z.root_depth_mm));
  const shown = plan.zones.flatMap((zone) => {
    const cell = cellOn(zone, plan.dawn);
    return cell && cell.state !== "absent" ? [{ zone, cell }] : [];
  });
  const waters = shown.filter((s) => s.cell.run);
  const waiting = shown.filter((s) => !s.cell.run);
  const list = (label: string, lines: typeof shown, className: string | undefined) =>
    lines.length > 0 && (
      <ul className={`${classes.zones} ${className}`} aria-label={label}>
        {lines.map(({ zone, cell }) => (
          <ZoneLine key={zone.zone} zone={zone} cell={cell} plan={plan} site={site} view={view} deepest={deepest} />
        ))}
      </ul>
    );
  return (
    <>
      {list("Zones that water", waters, classes.waters)}
      {list("Zones that wait", waiting, classes.waits)}
    </>
  );
}

function ZoneLine(props: LinesProps & { zone: ZonePlan; cell: Cell; deepest: number }) {
  const { zone, cell, plan, site, view } = props;
  const [open, setOpen] = useState(false);
  const [more, setMore] = useState(false);
  const units = useUnits();
  const start = cell.run?.starts[0];
  return (
    <li className={classes.zone} data-folds={!cell.run || undefined} data-more={more || undefined}>
      <ZoneCore
        zone={zone}
        cell={cell}
        tense={cell.date === plan.today ? "today" : "ahead"}
        deepest={props.deepest}
        width={28}
        height={58}
      />
      <div className={classes.name}>
        <h2>{zone.name}</h2>
        <span className="quiet">{growsName(zone)}</span>
        <span className={`quiet ${classes.sum}`}>got {weekSum(zone.this_week, units)}</span>
      </div>
      <div className={classes.verdict}>
        <div>
          <Verdict zone={zone} cell={cell} plan={plan} />
        </div>
        <div className={classes.reason}>
          {zone.regime !== "off" && (
            <span className="quiet">{sentenceCase(whenDay(cell.date, plan.today))} at dawn: </span>
          )}
          {sentence(cell, cell.verdict, plan.today, units)}
        </div>
      </div>
      <div className={classes.start}>
        {start ? clock(start, plan.time_zone) : cell.run ? (zone.new_grass ? "by hand" : "by hose") : ""}
        {!cell.run && (
          <button
            type="button"
            className={classes.unfold}
            aria-expanded={more}
            aria-label={`More, ${zone.name}`}
            onClick={() => setMore(!more)}
          >
            {more ? "Less" : "More"}
          </button>
        )}
        {zone.regime !== "off" && (
          <button type="button" className={classes.why} onClick={() => setOpen(true)} aria-label={`Why, ${zone.name}`}>
            Why
          </button>
        )}
      </div>
      <Working
        site={site}
        view={view}
        zone={zone}
        cell={cell}
        today={plan.today}
        opened={open}
        onClose={() => setOpen(false)}
      />
    </li>
  );
}

function Verdict({ zone, cell, plan }: { zone: ZonePlan; cell: Cell; plan: WeekPlan }) {
  if (cell.run && isNewGrass(zone.regime)) {
    return (
      <>
        <strong className={classes.water}>Water</strong> {slotsWords(cell, plan.time_zone)}
      </>
    );
  }
  if (cell.run) {
    return (
      <>
        <strong className={classes.water}>Water</strong> {runWords(cell.run)}
        {cell.later.map(({ run }) => (
          <span key={run.window.opens}>
            {" "}
            and again from {clock(run.starts[0] ?? run.window.opens, plan.time_zone)}, {runWords(run)}
          </span>
        ))}
      </>
    );
  }
  if (cell.state === "off") return <strong>Off</strong>;
  if (cell.state === "skip") return <strong className={classes.skip}>Skip</strong>;
  const later = zone.cells.find((c) => c.date > cell.date && c.run);
  if (!later?.run) return <strong>{isNewGrass(zone.regime) ? "Moist enough" : "Hold all week"}</strong>;
  const chance = staysDry(later.run.chance_pct);
  return (
    <>
      <strong>Hold</strong>; next {whenDay(later.date, plan.today)}
      {chance ? ` if it stays dry (${chance} %)` : ""}
    </>
  );
}
