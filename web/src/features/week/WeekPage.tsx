import { Button, Modal } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import type { SiteView, WeekPlan } from "../../api";
import { amount } from "../../money";
import { clock, dayMonth, longDay } from "../../time";
import { useUnits } from "../../units";
import { PlanGate } from "../morning/PlanGate";
import { PublishBar } from "../publishing/PublishBar";
import { PublishedWeek } from "../publishing/PublishedWeek";
import { publishingQuery } from "../publishing/queries";
import { Working } from "../reasons/Working";
import { sentence } from "../reasons/words";
import { Volumes } from "../rules/Volumes";
import { ChangeDay, canChange } from "./ChangeDay";
import type { Act } from "./edits";
import { Night } from "./Night";
import { useHand } from "./useHand";
import { type Command, type Position, WeekGrid } from "./WeekGrid";
import classes from "./WeekPage.module.css";
import { WeekSheet } from "./WeekSheet";

export function WeekPage() {
  return <PlanGate what="the week">{(planned) => <Week {...planned} />}</PlanGate>;
}

type Props = { site: string; plan: WeekPlan; number: number; madeAt: string; view: SiteView };

function Week({ site, plan, number, madeAt, view }: Props) {
  const units = useUnits();
  const today = plan.days.findIndex((d) => d.date === plan.today);
  const [at, setAt] = useState<Position>({ zone: 0, day: today });
  const [open, setOpen] = useState(false);
  const [night, setNight] = useState(false);
  const [change, setChange] = useState<Act>();
  const [publish, setPublish] = useState(false);
  const { data: publishing } = useQuery(publishingQuery(site));
  const openWorking = useCallback(() => setOpen(true), []);
  const hand = useHand(site);
  const { say } = hand;
  const move = useCallback(
    (to: Position) => {
      setAt(to);
      // What was said of another day is over.
      say("");
    },
    [say],
  );
  const zone = plan.zones[at.zone];
  const cell = zone?.cells[at.day];
  const changeable = hand.manage && zone !== undefined && cell !== undefined && canChange(zone, cell, plan.today);
  const begin = (act: Act) => {
    if (!changeable) return hand.say("This day of the zone is not changed by hand.");
    if (!cell.run && (act === "move" || act === "lock")) return hand.say("Nothing is planned on this day.");
    hand.say("");
    setChange(act);
  };
  const onCommand = (command: Command) => {
    if (command === "night") setNight(true);
    else if (command === "publish") setPublish(true);
    else if (command === "undo") hand.undo();
    else if (command === "redo") hand.redo();
    else begin(command);
  };
  return (
    <main className={classes.page}>
      <div className={`${classes.top} no-print`}>
        <div className={classes.lead}>
          <h1>Week of {dayMonth(plan.days[0]?.date ?? plan.today)}</h1>
          <span className="quiet">
            planned {longDay(plan.today)} at {clock(madeAt, plan.time_zone)}
          </span>
          {publishing && <PublishBar site={site} plan={plan} publishing={publishing} onOpen={() => setPublish(true)} />}
        </div>
        <Totals plan={plan} view={view} />
        <Button size="xs" variant="outline" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      <div className="no-print">
        {publishing && (
          <PublishedWeek
            site={site}
            plan={plan}
            number={number}
            publishing={publishing}
            opened={publish}
            onClose={() => setPublish(false)}
          />
        )}
        <Volumes plan={plan} />
        <BeyondController plan={plan} />
      </div>
      <div className="no-print">
        <WeekGrid plan={plan} at={at} onMove={move} onOpen={openWorking} onCommand={onCommand} />
      </div>
      {zone && cell && (
        <div className={`${classes.strip} no-print`}>
          <p aria-live="polite">
            <strong>
              {zone.name}, {longDay(cell.date)}:
            </strong>{" "}
            {cell.state === "absent"
              ? "The zone is not there on this day."
              : sentence(cell, cell.verdict, plan.today, units)}{" "}
            {hand.said && <strong>{hand.said} </strong>}
            <span className={`quiet ${classes.keys}`}>
              Keys: arrows move, W working, N night
              {hand.manage && ", S skip, M minutes, D another day, L lock, U undo, R redo, P publish"}.
            </span>
          </p>
          {cell.state !== "absent" && (
            <Button size="sm" variant="outline" onClick={() => setOpen(true)} aria-label={`Why, ${zone.name}`}>
              Why
            </Button>
          )}
          {changeable && (
            <Button size="sm" variant="outline" onClick={() => begin("skip")} aria-label={`Change, ${zone.name}`}>
              Change
            </Button>
          )}
          {hand.undoable && (
            <Button size="sm" variant="outline" onClick={hand.undo} title={hand.undoable}>
              Undo
            </Button>
          )}
          {hand.redoable && (
            <Button size="sm" variant="outline" onClick={hand.redo} title={hand.redoable}>
              Redo
            </Button>
          )}
          <Button size="sm" variant="outline" onClick={() => setNight(true)}>
            The night
          </Button>
          <Night
            plan={plan}
            date={cell.date}
            together={view.supply.together ?? false}
            opened={night}
            onClose={() => setNight(false)}
          />
          <Working
            site={site}
            view={view}
            zone={zone}
            cell={cell}
            today={plan.today}
            opened={open}
            onClose={() => setOpen(false)}
          />
          <Modal
            opened={change !== undefined}
            onClose={() => setChange(undefined)}
            title={`${zone.name}, ${longDay(cell.date)}`}
            closeButtonProps={{ "aria-label": "Close the change" }}
          >
            <ChangeDay
              site={site}
              zone={zone}
              cell={cell}
              today={plan.today}
              first={change}
              onKept={() => setChange(undefined)}
            />
          </Modal>
        </div>
      )}
      <WeekSheet plan={plan} view={view} madeAt={madeAt} units={units} />
    </main>
  );
}

/** What of the week cannot be set on the controller by its own programmes. */
function BeyondController({ plan }: { plan: WeekPlan }) {
  const beyond = plan.beyond_controller;
  if (!beyond) return null;
  const { programmes_needed: needed, programmes, no_pattern } = beyond;
  const said = [
    ...(programmes != null && needed > programmes
      ? [`takes ${needed} programmes, of zones with the same days and passes; the controller holds ${programmes}`]
      : []),
    ...(no_pattern.length > 0
      ? [`waters ${no_pattern.join(", ")} on days that no pattern of the controller makes`]
      : []),
  ];
  return (
    <p>The week {said.join(", and ")}. Set it day by day, or water some zones by a school that keeps to a calendar.</p>
  );
}

/** What the week takes if no rain comes, and what is to be expected with the rain that may. */
function Totals({ plan, view }: { plan: WeekPlan; view: SiteView }) {
  const units = useUnits();
  const { totals } = plan;
  const cost = (value: number | null | undefined) => (value == null ? "" : `, ${amount(value, view.site.currency)}`);
  const less = totals.expected_l < 0.95 * totals.volume_l;
  return (
    <span className={classes.totals}>
      From today, if no rain comes: <strong>{units.show("volume", totals.volume_l)}</strong>
      {cost(totals.cost)} · {Math.round(totals.run_s / 60)} min · {units.show("depth", totals.gross_mm)} over all the
      lawn
      {less && (
        <>
          <br />
          With the rain in sight about <strong>{units.show("volume", totals.expected_l)}</strong>
          {cost(totals.expected_cost)} are to be expected
        </>
      )}
    </span>
  );
}
