// A night's watering on a line of hours: passes as blocks, the soak between them as a line, zones named once, sunrise marked, against the allowed hours.
import type { WeekPlan } from "../../api";
import { clock } from "../../time";
import { runsOf } from "../reasons/run";
import classes from "./ClockLine.module.css";

type Block = { start: number; length: number };
type Window = WeekPlan["days"][number]["windows"][number];

const at = (instant: string) => new Date(instant).getTime() / 1000;

/** A line for each window of the next day that waters in any. */
export function ClockLine({ plan }: { plan: WeekPlan }) {
  const day = plan.days.find((d) => d.date === plan.next?.date);
  if (!day || !plan.next?.starts) return null;
  return <NightLines plan={plan} day={day} label="The next watering, hour by hour" />;
}

/** A line for each window of a day in which the clock waters. */
export function NightLines({ plan, day, label }: { plan: WeekPlan; day: WeekPlan["days"][number]; label: string }) {
  return (
    <>
      {day.windows.map((window) => (
        <WindowLine key={window.opens} plan={plan} day={day} window={window} label={label} />
      ))}
    </>
  );
}

type LineProps = { plan: WeekPlan; day: WeekPlan["days"][number]; window: Window; label: string };

function WindowLine({ plan, day, window, label }: LineProps) {
  const [opens, closes] = [at(window.opens), at(window.closes)];
  const rows = plan.zones.flatMap((zone) => {
    const cell = zone.cells.find((c) => c.date === day.date);
    const starts = (cell ? runsOf(cell) : []).flatMap((run) =>
      run.starts.map((s): Block => ({ start: at(s), length: run.pass_s })),
    );
    const blocks = starts.filter((b) => opens <= b.start && b.start < closes);
    return blocks.length > 0 ? [{ zone, blocks }] : [];
  });
  if (rows.length === 0) return null;
  const share = (s: number) => `${((s - opens) / (closes - opens)) * 100}%`;
  const hours: number[] = [];
  for (let hour = Math.ceil(opens / 3600) * 3600; hour <= closes; hour += 3600) hours.push(hour);
  const sunrise = day.sunrise && at(day.sunrise) >= opens && at(day.sunrise) <= closes ? at(day.sunrise) : undefined;
  const iso = (s: number) => new Date(s * 1000).toISOString();
  return (
    <figure className={classes.figure} aria-label={label}>
      <div className={classes.rows}>
        {rows.map(({ zone, blocks }) => (
          <div key={zone.zone} className={classes.row}>
            <span className={classes.label}>{zone.name}</span>
            <div className={classes.track}>
              <Soaks blocks={blocks} share={share} />
              {blocks.map((b) => (
                <span
                  key={b.start}
                  className={classes.block}
                  style={{ left: share(b.start), width: `${(b.length / (closes - opens)) * 100}%` }}
                />
              ))}
              {sunrise && <span className={classes.sunrise} style={{ left: share(sunrise) }} />}
            </div>
          </div>
        ))}
        <div className={classes.row} aria-hidden>
          <span className={classes.label}>{sunrise ? `sunrise ${clock(iso(sunrise), plan.time_zone)}` : ""}</span>
          <div className={classes.axis}>
            {hours.map((h) => (
              <span key={h} className={classes.hour} style={{ left: share(h) }}>
                {clock(iso(h), plan.time_zone)}
              </span>
            ))}
          </div>
        </div>
      </div>
    </figure>
  );
}

/** The soaks between a zone's passes. */
function Soaks({ blocks, share }: { blocks: Block[]; share: (s: number) => string }) {
  const first = blocks[0];
  const last = blocks[blocks.length - 1];
  if (!first || !last || blocks.length < 2) return null;
  const span = { left: share(first.start), right: `calc(100% - ${share(last.start)})` };
  return <span className={classes.soak} style={span} />;
}
