// The last days of a zone: how much of its water was gone, when it slept, when its crowns were wet. The table below has the figures.
import { dayMonth } from "../../time";
import type { ZoneStress } from "./queries";
import classes from "./Stress.module.css";

const HIGH = 100;

/** `limit`: share of its water beyond which a day counts as dry. */
export function Strip({ zone, limit }: { zone: ZoneStress; limit: number }) {
  const { days } = zone;
  const wide = days.length;
  const y = (used: number) => HIGH * used;
  const points = days.map((d, i) => `${i + 0.5},${y(d.used)}`).join(" ");
  const first = days[0];
  const last = days[days.length - 1];
  return (
    <figure className={classes.curve}>
      <svg
        className={classes.strip}
        viewBox={`0 0 ${wide} ${HIGH}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`${zone.name}: water gone by day, from full above to empty below; the table has the figures`}
      >
        {days.map((d, i) =>
          d.regime === "dormant" ? (
            <rect key={d.date} className={classes.asleep} x={i} y={0} width={1} height={HIGH} />
          ) : null,
        )}
        {days.map((d, i) =>
          d.wetted === d.date ? (
            <line key={d.date} className={classes.wet} x1={i + 0.5} x2={i + 0.5} y1={0} y2={14} />
          ) : null,
        )}
        <line className={classes.limit} x1={0} x2={wide} y1={y(limit)} y2={y(limit)} />
        <polyline className={classes.used} points={points} />
      </svg>
      <span aria-hidden="true" className={classes.full}>
        full
      </span>
      <span aria-hidden="true" className={classes.empty}>
        empty
      </span>
      <figcaption className={classes.scale}>
        <span>{first ? dayMonth(first.date) : ""}</span>
        <span>{last ? dayMonth(last.date) : ""}</span>
      </figcaption>
    </figure>
  );
}
