// The top centimetres of a core of new grass, hour by hour over today and tomorrow: how deep it is dry, how deep it may be, and when it is watered.
import { useId } from "react";
import type { Cell } from "../../api";
import { dayMonth, shortDay } from "../../time";
import { useUnits } from "../../units";
import { soilColour } from "../core-sample/CoreSample";
import { runsOf } from "../reasons/run";
import classes from "./NewGrass.module.css";

/** A day of it: the hours' dryness as shares of the layer, the limit, and the hours at which it is watered. */
export type TopDay = {
  date: string;
  lacks: number[];
  limit: number | undefined;
  dry: number[];
  waterings: number[];
};

/** The hour of the site's clock, with its part. */
const hourOf = (instant: string, timeZone: string) => {
  const parts = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone })
    .format(new Date(instant))
    .split(":");
  return Number(parts[0]) + Number(parts[1]) / 60;
};

export function topDay(cell: Cell, timeZone: string): TopDay | undefined {
  const surface = cell.surface;
  if (!surface || surface.lacks_pct.length === 0) return undefined;
  return {
    date: cell.date,
    lacks: surface.lacks_pct.map((pct) => pct / 100),
    limit: surface.limit_mm == null ? undefined : surface.limit_mm / surface.tew_mm,
    dry: surface.too_dry,
    waterings: runsOf(cell).map((run) => hourOf(run.starts[0] ?? run.window.opens, timeZone)),
  };
}

const HIGH = 62;
const DAY = 264;
const TOP = 26;
const hour = (h: number) => (DAY / 24) * h;

/** `09:00 to 12:00, 14:00 to 15:00`: hours that follow each other as one stretch. */
export function stretches(hours: number[]): string {
  const found: [number, number][] = [];
  for (const h of hours) {
    const last = found.at(-1);
    if (last && last[1] === h) last[1] = h + 1;
    else found.push([h, h + 1]);
  }
  const at = (h: number) => `${String(h).padStart(2, "0")}:00`;
  return found.map(([from, to]) => `${at(from)} to ${at(to)}`).join(", ");
}

type Props = {
  days: TopDay[];
  /** The hour of the first day that it is now. */
  now: number;
  soil: Parameters<typeof soilColour>[0];
  isUp: boolean;
  layerMm: number;
  name: string;
};

export function TopOfCore({ days, now, soil, isUp, layerMm, name }: Props) {
  return (
    <figure className={classes.top}>
      <div className={classes.days}>
        {days.map((day, d) => (
          <OneDay
            key={day.date}
            day={day}
            soil={soil}
            isUp={isUp}
            layerMm={layerMm}
            name={name}
            {...(d === 0 ? { now } : {})}
          />
        ))}
      </div>
      <figcaption className={classes.key}>
        <span>
          <i data-key="wet" style={{ background: soilColour(soil) }} /> moist
        </span>
        <span>
          <i data-key="dry" /> dry from the top
        </span>
        <span>
          <i data-key="over" /> too dry
        </span>
        <span>
          <i data-key="limit" /> as dry as it may be
        </span>
        <span>↓ watering</span>
      </figcaption>
    </figure>
  );
}

type DayProps = Omit<Props, "days" | "now"> & { day: TopDay; now?: number };

function OneDay({ day, now, soil, isUp, layerMm, name }: DayProps) {
  const hatch = useId();
  const units = useUnits();
  const depth = (mm: number) =>
    units.system === "us" ? `${Number((mm / 25.4).toFixed(2))} in` : `${Number((mm / 10).toFixed(1))} cm`;
  const dry = day.dry.length > 0 ? `too dry from ${stretches(day.dry)}` : "never too dry";
  const times = day.waterings.length;
  const watered = times === 0 ? "not watered" : `watered ${times === 1 ? "once" : `${times} times`}`;
  const bottom = TOP + HIGH;
  return (
    <svg
      viewBox={`-30 0 ${DAY + 32} ${bottom + 16}`}
      role="img"
      aria-label={`The top of ${name} on ${dayMonth(day.date)}: ${dry}, ${watered}.`}
    >
      <defs>
        <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill="var(--paper)" />
          <rect width="2" height="5" fill="var(--clay)" />
        </pattern>
      </defs>
      <rect x={0} y={TOP} width={DAY} height={HIGH} fill={soilColour(soil)} />
      {day.lacks.map((share, h) => (
        <rect
          // biome-ignore lint/suspicious/noArrayIndexKey: an hour of the day is what it is
          key={h}
          x={hour(h)}
          y={TOP}
          width={hour(1) + 0.3}
          height={HIGH * share}
          fill={day.dry.includes(h) ? `url(#${hatch})` : "#eadbbb"}
        />
      ))}
      {day.limit !== undefined && (
        <line
          x1={0}
          x2={DAY}
          y1={TOP + HIGH * day.limit}
          y2={TOP + HIGH * day.limit}
          stroke="var(--ink)"
          strokeDasharray="5 3"
        />
      )}
      {day.waterings.map((at) => (
        <path key={at} d={`M${hour(at)} ${TOP - 13}v11m-3 -4l3 4l3 -4`} className={classes.watering} />
      ))}
      {Array.from({ length: 8 }, (_, i) => (DAY / 8) * (i + 0.5)).map((x) =>
        isUp ? (
          <path key={x} d={`M${x} ${TOP}l-2 -7m2 7l2.5 -6`} stroke="#5d8f3a" strokeWidth="1.5" fill="none" />
        ) : (
          <ellipse key={x} cx={x} cy={TOP + 4} rx={2.2} ry={1.2} fill="#f7ecd0" stroke="#6b4f22" strokeWidth="0.7" />
        ),
      )}
      <rect x={0} y={TOP} width={DAY} height={HIGH} fill="none" stroke="var(--ink)" />
      {now !== undefined && (
        <>
          <line x1={hour(now)} x2={hour(now)} y1={TOP - 16} y2={bottom + 3} stroke="var(--clay)" strokeWidth="1.6" />
          <text x={hour(now) + 2} y={TOP - 15} className={classes.small}>
            now
          </text>
        </>
      )}
      {[0, 0.5, 1].map((share) => (
        <text key={share} x={-4} y={TOP + HIGH * share + 3} textAnchor="end" className={classes.small}>
          {share === 0 ? "0" : depth(layerMm * share)}
        </text>
      ))}
      {[0, 6, 12, 18].map((h) => (
        <g key={h}>
          <line x1={hour(h)} x2={hour(h)} y1={bottom} y2={bottom + 3} stroke="var(--ink)" />
          <text x={hour(h) + 2} y={bottom + 10} className={classes.small}>
            {h === 0 ? shortDay(day.date) : `${String(h).padStart(2, "0")}:00`}
          </text>
        </g>
      ))}
    </svg>
  );
}
