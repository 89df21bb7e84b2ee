// Zones down, days across, a core in each cell. One cell is in the tab order; arrow keys move.
import { type KeyboardEvent, memo, useCallback, useEffect, useRef } from "react";
import type { Cell, WeekPlan, ZonePlan } from "../../api";
import { clock, minutes, minutesSeconds, shortDay } from "../../time";
import { useUnits } from "../../units";
import { ZoneCore } from "../core-sample/ZoneCore";
import { runsOf } from "../reasons/run";
import { goesTooDry, growsName, isNewGrass, staysDry, weekSum } from "../reasons/words";
import { DayWeather, scaleOf } from "./DayWeather";
import classes from "./WeekGrid.module.css";

/** With more zones than fit a desk the days stay in sight while the zones scroll. */
const LONG = 9;

export type Position = { zone: number; day: number };

/** What a key asks of the selected cell, or of the week. */
export type Command = "night" | "skip" | "minutes" | "move" | "lock" | "undo" | "redo" | "publish";

type Props = {
  plan: WeekPlan;
  at: Position;
  onMove: (to: Position) => void;
  onOpen: () => void;
  onCommand: (command: Command) => void;
};

const COMMANDS: Record<string, Command> = {
  n: "night",
  s: "skip",
  m: "minutes",
  d: "move",
  l: "lock",
  u: "undo",
  r: "redo",
  p: "publish",
};

/** What a pressed key asks for; the usual keys of undo and redo too. */
function commandOf(event: KeyboardEvent): Command | undefined {
  const key = event.key.toLowerCase();
  if (event.altKey) return undefined;
  if (!event.ctrlKey && !event.metaKey) return COMMANDS[key];
  if (key === "z") return event.shiftKey ? "redo" : "undo";
  return key === "y" ? "redo" : undefined;
}

const MOVES: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

export function WeekGrid({ plan, at, onMove, onOpen, onCommand }: Props) {
  const units = useUnits();
  const table = useRef<HTMLTableElement>(null);
  const moved = useRef(false);
  const deepest = Math.max(...plan.zones.map((z) => z.root_depth_mm));
  const most = scaleOf(plan.days);
  const today = plan.days.findIndex((d) => d.date === plan.today);

  // Where not all days fit, today stands first.
  const first = useRef<HTMLTableCellElement>(null);
  useEffect(() => {
    const scroll = table.current?.parentElement;
    const corner = table.current?.querySelector("th");
    if (scroll && corner && first.current && scroll.clientWidth < 700) {
      scroll.scrollLeft = first.current.offsetLeft - corner.clientWidth;
    }
  }, []);

  // Focus follows the keyboard, never the first drawing.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a move is what this waits for
  useEffect(() => {
    if (moved.current) table.current?.querySelector<HTMLElement>('[tabindex="0"]')?.focus();
    moved.current = false;
  }, [at]);

  const onKeyDown = (event: KeyboardEvent) => {
    const move = MOVES[event.key];
    if (move) {
      event.preventDefault();
      moved.current = true;
      onMove({
        zone: Math.min(plan.zones.length - 1, Math.max(0, at.zone + move[0])),
        day: Math.min(plan.days.length - 1, Math.max(0, at.day + move[1])),
      });
    } else if (event.key === "Enter" || event.key === "w" || event.key === "W") {
      event.preventDefault();
      onOpen();
    } else {
      const command = commandOf(event);
      if (!command) return;
      event.preventDefault();
      onCommand(command);
    }
  };

  const pick = useCallback(
    (to: Position) => {
      moved.current = true;
      onMove(to);
    },
    [onMove],
  );

  return (
    <div className={classes.scroll} data-long={plan.zones.length > LONG || undefined}>
      <table
        ref={table}
        className={classes.grid}
        role="grid"
        aria-label="The week, zones by days"
        onKeyDown={onKeyDown}
      >
        <thead>
          <tr>
            <th scope="col" className={classes.corner}>
              <span className="quiet">used at dawn, {units.label("depth")}</span>
              <span className={classes.rain}>rain, {units.label("depth")}</span>
              <span className={classes.et}>reference ET, {units.label("depth")}</span>
            </th>
            {plan.days.map((day, index) => (
              <th
                key={day.date}
                ref={index === today ? first : undefined}
                scope="col"
                className={classes.day}
                data-today={index === today || undefined}
              >
                <span className={classes.heading}>
                  <span className={classes.date}>{shortDay(day.date)}</span>
                  <span className={classes.hours}>{hoursOf(day, plan.time_zone)}</span>
                </span>
                <DayWeather day={day} most={most} past={index < today} />
              </th>
            ))}
            <th scope="col" className={classes.total}>
              From today
            </th>
          </tr>
        </thead>
        <tbody>
          {plan.zones.map((zone, z) => (
            <Row
              key={zone.zone}
              plan={plan}
              zone={zone}
              row={z}
              selected={z === at.zone ? at.day : undefined}
              today={today}
              deepest={deepest}
              onPick={pick}
              onOpen={onOpen}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

type RowProps = {
  plan: WeekPlan;
  zone: ZonePlan;
  row: number;
  /** The day selected in it. */
  selected: number | undefined;
  today: number;
  deepest: number;
  onPick: (to: Position) => void;
  onOpen: () => void;
};

/** A zone's days. A move draws the rows anew that it leaves and reaches, and no others. */
const Row = memo(function Row({ plan, zone, row, selected, today, deepest, onPick, onOpen }: RowProps) {
  const units = useUnits();
  return (
    <tr>
      <th scope="row" className={classes.zone}>
        {zone.name}
        <span className="quiet">{growsName(zone)}</span>
        {zone.regime === "dormant" && <span>let go: keep feet, mower, weed killer and quick nitrogen off</span>}
        <span className="quiet">got {weekSum(zone.this_week, units)}</span>
      </th>
      {zone.cells.map((cell, d) => (
        // biome-ignore lint/a11y/useKeyWithClickEvents: the grid handles the keys
        <td
          key={cell.date}
          role="gridcell"
          className={classes.cell}
          tabIndex={d === selected ? 0 : -1}
          aria-selected={d === selected}
          data-today={d === today || undefined}
          data-closed={
            (d >= today && (plan.days[d]?.windows.length === 0 || cell.verdict.verdict === "closed_by_rule")) ||
            undefined
          }
          onClick={() => onPick({ zone: row, day: d })}
          onDoubleClick={onOpen}
        >
          <CellBody plan={plan} zone={zone} cell={cell} index={d} today={today} deepest={deepest} />
        </td>
      ))}
      <td className={classes.total}>
        {zone.totals.run_s > 0 ? (
          <>
            <strong>{units.show("volume", zone.totals.volume_l)}</strong>
            <span>{Math.round(zone.totals.run_s / 60)} min</span>
            <span>{units.show("depth", zone.totals.gross_mm)}</span>
          </>
        ) : (
          <span>none</span>
        )}
      </td>
    </tr>
  );
});

/** The day's first allowed hours; parts of a night that a rule of a zone divides are one. */
function hoursOf(day: WeekPlan["days"][number], timeZone: string): string {
  const [first, ...later] = day.windows;
  if (!first) return "closed";
  let closes = first.closes;
  for (const window of later) if (window.opens === closes) closes = window.closes;
  return hours(clock(first.opens, timeZone), clock(closes, timeZone));
}

/** `2–7 h` for whole hours, `02:30–07:15` for others. */
function hours(from: string, to: string): string {
  if (!from.endsWith(":00") || !to.endsWith(":00")) return `${from}–${to}`;
  return `${Number(from.slice(0, 2))}–${Number(to.slice(0, 2))} h`;
}

function CellBody(props: {
  plan: WeekPlan;
  zone: ZonePlan;
  cell: Cell;
  index: number;
  today: number;
  deepest: number;
}) {
  const { plan, zone, cell, index, today } = props;
  if (cell.state === "absent") return <span className="quiet">not there</span>;
  const tense = index < today ? "past" : index === today ? "today" : "ahead";
  return (
    <div className={classes.body}>
      <ZoneCore zone={zone} cell={cell} tense={tense} deepest={props.deepest} width={20} height={50} />
      <div className={classes.text}>
        <CellText plan={plan} zone={zone} cell={cell} />
      </div>
    </div>
  );
}

function CellText({ plan, zone, cell }: { plan: WeekPlan; zone: ZonePlan; cell: Cell }) {
  const units = useUnits();
  const keptDry = cell.ledger.some((l) => l.line === "kept_dry" || l.line === "kept_dry_hours");
  const edited = cell.edit && <strong>{cell.edit.kind === "taken_out" ? "taken out" : "set"}</strong>;
  const { surface } = cell;
  const used = surface
    ? `${units.figure("depth", surface.start_mm)} of ${units.figure("depth", surface.limit_mm ?? surface.tew_mm)}`
    : `${units.figure("depth", cell.depletion_start_mm)} of ${units.figure("depth", cell.raw_mm)}`;
  if (cell.run && isNewGrass(zone.regime)) {
    const runs = runsOf(cell);
    const first = cell.run.starts[0];
    return (
      <>
        <span className={classes.minutes}>{minutes(runs.reduce((sum, run) => sum + run.run_s, 0))}</span>
        <span>{runs.length === 1 ? "1 run" : `${runs.length} runs`}</span>
        {first && <span>from {clock(first, plan.time_zone)}</span>}
        {edited}
      </>
    );
  }
  if (cell.run) {
    const { passes, pass_s, starts, run_s, settings } = cell.run;
    const chance = staysDry(cell.run.chance_pct);
    const pass = pass_s % 60 === 0 ? String(pass_s / 60) : minutesSeconds(pass_s);
    return (
      <>
        <span className={classes.minutes}>{minutes(run_s)}</span>
        <span>
          {settings > 1 ? `${settings} places` : `${passes}×${pass}`}
          {starts[0] && ` · ${clock(starts[0], plan.time_zone)}`}
        </span>
        {cell.later.map(({ run }) => (
          <span key={run.window.opens}>
            + {minutes(run.run_s)}
            {run.starts[0] && ` · ${clock(run.starts[0], plan.time_zone)}`}
          </span>
        ))}
        {edited ?? (chance && <span className={classes.chance}>{chance} % likely</span>)}
      </>
    );
  }
  const ran = cell.ledger.filter((l) => l.line === "ran");
  if (ran.length > 0) {
    return (
      <>
        <span>ran {minutes(ran.reduce((sum, r) => sum + r.seconds, 0))}</span>
        <span>{ran.every((r) => r.assumed) ? "assumed" : "as recorded"}</span>
      </>
    );
  }
  if (cell.state === "off") return <span>off</span>;
  if (cell.state === "skip") return edited || <strong>{keptDry ? "kept dry" : "skip"}</strong>;
  // Dawn above, evening below: two figures of one day are not mixed. A little beyond while it waits for rain is chosen, and no alarm.
  const short =
    (zone.regime === "established" || zone.regime === "recovering") &&
    cell.date >= plan.today &&
    cell.depletion_mm - cell.raw_mm > 0.05;
  return (
    <>
      <span>{used}</span>
      {keptDry && <strong>kept dry</strong>}
      {cell.verdict.verdict === "closed_by_rule" && <span>{cell.verdict.rule}</span>}
      {short && (
        <span className={goesTooDry(zone) ? classes.short : classes.chance}>
          {units.figure("depth", cell.depletion_mm)} by dusk
        </span>
      )}
    </>
  );
}
