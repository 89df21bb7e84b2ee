// Planned backwards from frost: a lane for each day of the work. Those that a person sets are dragged, or moved by arrow keys or typed; what clashes lights up, with the first
// day that works.
import { Button, Checkbox, TextInput } from "@mantine/core";
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Catalogue } from "../../api";
import { parse } from "../../numbers";
import { addDays, dayMonth, daysBetween, longDay, monthName } from "../../time";
import { useFigures } from "../forms/figures";
import classes from "./NewGrass.module.css";
import type { SowingPlan, SowingPoint, SowingWeek, SowingWeeks } from "./queries";
import { clashWords, fatesWords, pointName, spreadWords } from "./words";

type Line = SowingPlan["line"];

/** The days that a person set. */
export type Days = { sow: string; soil_work: string; spray?: string; wait_days: number };

type Settable = "sow" | "soil_work" | "spray";
const isSettable = (what: SowingPoint["what"]): what is Settable =>
  what === "sow" || what === "soil_work" || what === "spray";

const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowDown: -1,
  ArrowRight: 1,
  ArrowUp: 1,
  PageDown: -7,
  PageUp: 7,
};

type Props = {
  line: Line;
  weeks: SowingWeeks | undefined;
  week: SowingWeek | undefined;
  days: Days | undefined;
  onDays: (days: Days) => void;
  catalogue: Catalogue;
  /** The field that the server does not take, and why. */
  wrong: { field: string; message: string } | undefined;
};

/** The days of a line: those that a person set, or that are proposed. */
export function setOf(line: Line, days: Days | undefined): Days {
  const on = (what: SowingPoint["what"]) => line.points.find((point) => point.what === what)?.on;
  const sow = days?.sow ?? on("sow") ?? line.today;
  const spray = days ? days.spray : on("spray");
  return {
    sow,
    soil_work: days?.soil_work ?? on("soil_work") ?? sow,
    ...(spray === undefined ? {} : { spray }),
    wait_days: days?.wait_days ?? line.wait_days,
  };
}

export function SowingLine({ line, weeks, week, days, onDays, catalogue, wrong }: Props) {
  const set = setOf(line, days);
  const move = (what: Settable, date: string) => onDays({ ...set, [what]: date });
  const spraying = (sprays: boolean) => {
    const { spray: _, ...rest } = set;
    onDays(sprays ? { ...rest, spray: addDays(set.sow, -set.wait_days) } : rest);
  };
  // As it is shown: what was moved is where it was put, whatever the server knows yet.
  const points = line.points
    .filter((point) => point.what !== "spray" || set.spray !== undefined)
    .map((point) => (isSettable(point.what) ? { ...point, on: set[point.what] ?? point.on } : point));
  const all = points.flatMap((point) => [point.on, ...(point.spread ? [point.spread.low, point.spread.high] : [])]);
  // The strip keeps its ends while a day is dragged.
  const ends = useRef<{ from: string; to: string }>(undefined);
  const inOrder = [line.today, ...all].sort();
  const from = inOrder[0] ?? line.today;
  const to = inOrder.at(-1) ?? line.today;
  const [dragging, setDragging] = useState(false);
  if (!dragging || !ends.current) ends.current = { from: addDays(from, -3), to: addDays(to, 10) };
  const scale = { ...ends.current, span: Math.max(1, daysBetween(ends.current.from, ends.current.to)) };
  const clashes = line.points.reduce((sum, point) => sum + point.clashes.length, 0);
  return (
    <>
      <p role="status">
        {clashes === 0
          ? "All days go together."
          : `${clashes === 1 ? "One thing does" : `${clashes} things do`} not go together: see the marked days.`}
      </p>
      <ol className={classes.line}>
        <li aria-hidden="true" className={classes.months}>
          <span />
          <Months {...scale} />
        </li>
        {points.map((point) => (
          <Lane
            key={point.what}
            point={point}
            line={line}
            scale={scale}
            weeks={point.what === "sow" ? weeks : undefined}
            odds={point.what === "sow" ? week : undefined}
            onMove={move}
            onDragging={setDragging}
            wrong={wrong?.field === point.what ? wrong.message : undefined}
          />
        ))}
      </ol>
      <div className={classes.spray}>
        <Checkbox
          label="Weeds are sprayed first"
          checked={set.spray !== undefined}
          onChange={(e) => spraying(e.currentTarget.checked)}
        />
        {set.spray !== undefined && (
          <SprayWait days={set.wait_days} catalogue={catalogue} onDays={(wait_days) => onDays({ ...set, wait_days })} />
        )}
      </div>
    </>
  );
}

/** Days from spraying to sowing, as the label says. */
function SprayWait({
  days,
  catalogue,
  onDays,
}: {
  days: number;
  catalogue: Catalogue;
  onDays: (days: number) => void;
}) {
  const figures = useFigures({ wait_days: days });
  const problem = (typed: string) => {
    const n = parse(typed);
    const range = catalogue.ranges.find((r) => r.name === "wait_days");
    if (n === undefined || !Number.isInteger(n)) return "A whole number of days.";
    return range && (n < range.min || n > range.max) ? `Between ${range.min} and ${range.max} days.` : undefined;
  };
  const typed = figures.text("wait_days");
  return (
    <TextInput
      label="Days from spraying to sowing, by the label"
      inputMode="numeric"
      autoComplete="off"
      value={typed}
      error={problem(typed)}
      onChange={(e) => {
        const text = e.currentTarget.value;
        figures.type("wait_days", text);
        if (problem(text) === undefined) onDays(Number(parse(text)));
      }}
      maw={320}
    />
  );
}

type Scale = { from: string; to: string; span: number };

const place = (date: string, { from, span }: Scale) => `${(100 * daysBetween(from, date)) / span}%`;

function Months(scale: Scale) {
  const days = Array.from({ length: scale.span }, (_, i) => addDays(scale.from, i));
  // The last days leave no room for a name.
  const firsts = days.slice(0, -Math.ceil(scale.span / 10)).filter((day) => day.endsWith("-01"));
  return (
    <div className={classes.lane}>
      {firsts.map((day) => (
        <span key={day} className={classes.month} style={{ left: place(day, scale) }}>
          {monthName(day).slice(0, 3)}
        </span>
      ))}
    </div>
  );
}

type LaneProps = {
  point: SowingPoint;
  line: Line;
  scale: Scale;
  weeks: SowingWeeks | undefined;
  odds: SowingWeek | undefined;
  onMove: (what: Settable, date: string) => void;
  onDragging: (dragging: boolean) => void;
  wrong: string | undefined;
};

function Lane({ point, line, scale, weeks, odds, onMove, onDragging, wrong }: LaneProps) {
  const { what } = point;
  const name = pointName(what, line.method);
  const clashing = point.clashes.length > 0;
  const words = point.clashes.map(clashWords).join("; ");
  const settable = isSettable(what);
  const works = point.first_works;
  return (
    <li data-clash={clashing || undefined} aria-label={name}>
      <div className={classes.point}>
        <strong>
          {clashing ? "✕ " : ""}
          {name}
        </strong>
        {settable ? (
          <TextInput
            type="date"
            size="sm"
            aria-label={`${name} on`}
            error={wrong}
            value={point.on}
            onChange={(e) => {
              if (e.currentTarget.value) onMove(what, e.currentTarget.value);
            }}
          />
        ) : (
          <span>{longDay(point.on)}</span>
        )}
        {point.spread && <span className="quiet">{spreadWords(point.spread)}</span>}
        {odds && odds.years > 0 && <span className="quiet">On rain alone {fatesWords(odds.rain_fed)}.</span>}
        {clashing && (
          <span className={classes.clash}>
            {words}.{" "}
            {settable &&
              (works ? (
                <Button
                  size="sm"
                  variant="outline"
                  onClick={() => onMove(what, works)}
                  aria-label={`${name}: move it to ${longDay(works)}, the first day that works`}
                >
                  First day that works: {dayMonth(works)}
                </Button>
              ) : (
                "No day works with the others where they are: move one of them."
              ))}
          </span>
        )}
      </div>
      <Strip
        point={point}
        name={name}
        words={words}
        scale={scale}
        weeks={weeks}
        onMove={onMove}
        onDragging={onDragging}
      />
    </li>
  );
}

type StripProps = Pick<LaneProps, "point" | "scale" | "weeks" | "onMove" | "onDragging"> & {
  name: string;
  words: string;
};

function Strip({ point, name, words, scale, weeks, onMove, onDragging }: StripProps) {
  const lane = useRef<HTMLDivElement>(null);
  const { what } = point;
  const at = (e: PointerEvent) => {
    const box = lane.current?.getBoundingClientRect();
    if (!box || box.width === 0) return point.on;
    const share = Math.min(1, Math.max(0, (e.clientX - box.left) / box.width));
    return addDays(scale.from, Math.round(share * scale.span));
  };
  const keys = (e: KeyboardEvent) => {
    const step = STEPS[e.key];
    if (step === undefined || !isSettable(what)) return;
    e.preventDefault();
    onMove(what, addDays(point.on, step));
  };
  return (
    <div className={classes.lane} ref={lane}>
      {weeks?.weeks
        .filter((w) => w.is_in_season && w.from < scale.to)
        .map((w) => (
          <i
            key={w.from}
            className={classes.season}
            style={{
              left: place(w.from, scale),
              width: `${(100 * Math.min(7, daysBetween(w.from, scale.to))) / scale.span}%`,
            }}
          />
        ))}
      {point.spread && (
        <i
          className={classes.spread}
          style={{
            left: place(point.spread.low, scale),
            width: `${(100 * Math.max(1, daysBetween(point.spread.low, point.spread.high))) / scale.span}%`,
          }}
        />
      )}
      {isSettable(what) ? (
        <button
          type="button"
          role="slider"
          className={classes.handle}
          style={{ left: place(point.on, scale) }}
          data-clash={words ? true : undefined}
          aria-label={name}
          aria-valuemin={0}
          aria-valuemax={scale.span}
          aria-valuenow={daysBetween(scale.from, point.on)}
          aria-valuetext={words ? `${longDay(point.on)}: ${words}` : longDay(point.on)}
          onKeyDown={keys}
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            onDragging(true);
          }}
          onPointerMove={(e) => {
            if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
            const date = at(e);
            if (date !== point.on) onMove(what, date);
          }}
          onPointerUp={() => onDragging(false)}
          onPointerCancel={() => onDragging(false)}
        />
      ) : (
        <i className={classes.mark} data-what={what} style={{ left: place(point.on, scale) }} />
      )}
    </div>
  );
}
