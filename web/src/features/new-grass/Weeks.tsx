// Each week of the year ahead: in season or not, and what becomes of seed on rain alone, by the site's own past years; one week in figures.
import { useId, useState } from "react";
import { dayMonth, longDay, monthName } from "../../time";
import { useUnits } from "../../units";
import scroll from "../stress/Stress.module.css";
import classes from "./NewGrass.module.css";
import type { SowingWeek, SowingWeeks } from "./queries";
import { around, fatesWords, seasonWords } from "./words";

const WIDE = 12;
const HIGH = 90;
const SEASON = 16;

export function Weeks({ weeks: { weeks, rules }, sow }: { weeks: SowingWeeks; sow: string | undefined }) {
  const thin = useId();
  const [picked, setPicked] = useState<number>();
  const planned = weeks.findLastIndex((w) => sow !== undefined && w.from <= sow);
  const at = picked ?? Math.max(planned, 0);
  const week = weeks[at];
  if (!week || weeks.every((w) => w.years === 0)) {
    return (
      <p>
        No past year on record tells how sowing would go. Import past years of weather (Site, Weather): we then compute
        each week from each of them.
      </p>
    );
  }
  const x = (i: number) => i * WIDE;
  const inSeason = weeks.filter((w) => w.is_in_season).length;
  return (
    <>
      <figure className={classes.weeks}>
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
        <section className={scroll.scroll} tabIndex={0} aria-label="Each week of the year ahead">
          <svg
            viewBox={`-62 0 ${WIDE * weeks.length + 64} ${SEASON + HIGH + 34}`}
            role="img"
            aria-label={`Weeks from ${dayMonth(weeks[0]?.from ?? week.from)} on: ${inSeason} of ${weeks.length} are in season. The table below has the figures.`}
          >
            <defs>
              <pattern id={thin} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
                <rect width="5" height="5" fill="var(--paper)" />
                <rect width="2.2" height="5" fill="#5d8f3a" />
              </pattern>
            </defs>
            {weeks.map((w, i) => {
              const share = (n: number) => (w.years > 0 ? (HIGH * n) / w.years : 0);
              const stands = share(w.rain_fed.stands);
              const thinned = share(w.rain_fed.thin);
              const base = SEASON + 4 + HIGH;
              return (
                <g key={w.from}>
                  {w.is_in_season && <rect x={x(i)} y={0} width={WIDE} height={SEASON} fill="#3f6b34" />}
                  {w.years === 0 && (
                    <text x={x(i) + 2} y={base - 4} className={classes.small}>
                      ?
                    </text>
                  )}
                  <rect x={x(i) + 1} y={base - stands} width={WIDE - 2} height={stands} fill="#5d8f3a" />
                  <rect
                    x={x(i) + 1}
                    y={base - stands - thinned}
                    width={WIDE - 2}
                    height={thinned}
                    fill={`url(#${thin})`}
                  />
                  {w.closed_days > 0 && (
                    <path
                      d={`M${x(i) + 2} ${base - 2}l8 -8m0 8l-8 -8`}
                      stroke="var(--clay)"
                      strokeWidth="1.6"
                      fill="none"
                    />
                  )}
                </g>
              );
            })}
            <rect x={0} y={0} width={WIDE * weeks.length} height={SEASON} fill="none" stroke="var(--edge)" />
            <rect x={0} y={SEASON + 4} width={WIDE * weeks.length} height={HIGH} fill="none" stroke="var(--edge)" />
            <rect
              x={x(at)}
              y={0}
              width={WIDE}
              height={SEASON + HIGH + 4}
              fill="none"
              stroke="var(--clay)"
              strokeWidth="2.4"
            />
            <text x={-4} y={SEASON - 4} textAnchor="end" className={classes.small}>
              in season
            </text>
            <text x={-4} y={SEASON + 14} textAnchor="end" className={classes.small}>
              all years
            </text>
            <text x={-4} y={SEASON + HIGH + 4} textAnchor="end" className={classes.small}>
              none
            </text>
            {weeks.map((w, i) =>
              i === 0 || w.from.slice(0, 7) !== weeks[i - 1]?.from.slice(0, 7) ? (
                <g key={`month-${w.from}`}>
                  <line x1={x(i)} x2={x(i)} y1={SEASON + HIGH + 4} y2={SEASON + HIGH + 9} stroke="var(--ink)" />
                  {(i === 0 ? (weeks[2]?.from ?? "").slice(0, 7) === w.from.slice(0, 7) : i < weeks.length - 2) && (
                    <text x={x(i) + 2} y={SEASON + HIGH + 20} className={classes.small}>
                      {monthName(w.from).slice(0, 3)}
                    </text>
                  )}
                </g>
              ) : null,
            )}
          </svg>
        </section>
        <figcaption className={classes.key}>
          <span>On rain alone, share of past years:</span>
          <span>
            <i data-key="stands" /> stood
          </span>
          <span>
            <i data-key="thin" /> thin
          </span>
          <span>
            <i data-key="fails" /> failed
          </span>
          {weeks.some((w) => w.closed_days > 0) && <span>× days without any hours for it</span>}
        </figcaption>
      </figure>
      <label className={classes.week}>
        <span>
          Sown in the week of <strong>{longDay(week.from)}</strong>
        </span>
        <input
          type="range"
          min={0}
          max={weeks.length - 1}
          value={at}
          aria-label="Week of sowing"
          aria-valuetext={longDay(week.from)}
          onChange={(e) => setPicked(Number(e.currentTarget.value))}
        />
      </label>
      <WeekFigures week={week} />
      <details>
        <summary className={classes.summary}>How we compute it</summary>
        <Computed rules={rules} />
      </details>
      <details>
        <summary className={classes.summary}>All weeks as a table</summary>
        <Table weeks={weeks} />
      </details>
    </>
  );
}

function WeekFigures({ week }: { week: SowingWeek }) {
  const units = useUnits();
  if (week.years === 0) return <p>No past year on record knows all the days after it.</p>;
  const { water_l, run_min, waterings, most_a_day, up_days, mown_days } = week;
  const volume = (l: number) => units.figure("volume", l);
  return (
    <ul className={classes.figures}>
      <li>{seasonWords(week)}</li>
      <li>
        <strong>On rain alone</strong> {fatesWords(week.rain_fed)}.
      </li>
      <li>
        <strong>Watered</strong> {fatesWords(week.watered)}
        {water_l && run_min && waterings && most_a_day
          ? `; until the first mowing ${around(water_l, volume)} ${units.label("volume")}, ${around(run_min)} min of running in ${around(waterings)} waterings: up to ${around(most_a_day)} a day for who has no timer`
          : ""}
        .
      </li>
      {mown_days && (
        <li>
          {up_days && up_days.high > 0 ? `Up after ${around(up_days)} days, mown` : "Mown"} after {around(mown_days)}.
        </li>
      )}
      {week.closed_days > 0 && (
        <li className={classes.clash}>
          <strong>
            {week.closed_days} of its first 28 days leave it no hours{week.closed_by ? ` by “${week.closed_by}”` : ""}.
          </strong>{" "}
          {week.closed_by
            ? "A permit for new seed may allow them: ask locally, then note it as an exemption of that rule on Site, Rules."
            : "Set hours of the day for it with the zone."}
        </li>
      )}
    </ul>
  );
}

/** By what a week is in season, and a stand thin or lost. */
function Computed({ rules }: { rules: SowingWeeks["rules"] }) {
  const units = useUnits();
  const degrees = (c: number) => units.show("temperature", c);
  return (
    <p>
      In season, where two of three past years agree: the soil is at least {degrees(rules.soil_least_c)}
      {rules.heat_most_c != null
        ? ` and at most ${degrees(rules.heat_most_c)}, and so is the mean of the air until ${rules.young_days} days after the first mowing`
        : ""}
      ; no frost of {degrees(rules.hard_frost_c)} comes before that mowing, or within {rules.before_frost_days} days.
      Each past year’s weather is put on these days and followed by the hour, from dry soil on: a day is dry when the
      top is beyond its limit for {rules.dry_hours} hours; {rules.thin_days} dry days running after the first moist one
      thin the stand, {rules.lost_days} kill it. Watered: at the plan’s own slots, as far as rules leave them.
    </p>
  );
}

function Table({ weeks }: { weeks: SowingWeek[] }) {
  const units = useUnits();
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too
    <section className={scroll.scroll} tabIndex={0} aria-label="Weeks of sowing">
      <table className={scroll.table}>
        <thead>
          <tr>
            <th scope="col">Week of</th>
            <th scope="col">Past years</th>
            <th scope="col">In season</th>
            <th scope="col">On rain alone: stood, thin, failed</th>
            <th scope="col">Watered, {units.label("volume")}</th>
            <th scope="col">Waterings</th>
            <th scope="col">Days to mowing</th>
          </tr>
        </thead>
        <tbody>
          {weeks.map((w) => (
            <tr key={w.from}>
              <th scope="row">{dayMonth(w.from)}</th>
              <td>{w.years}</td>
              <td>
                {w.seasons.good}
                {w.is_in_season ? ", in season" : ""}
              </td>
              <td>
                {w.rain_fed.stands}, {w.rain_fed.thin}, {w.rain_fed.fails}
              </td>
              <td>{w.water_l ? units.figure("volume", w.water_l.middle) : "–"}</td>
              <td>{w.waterings ? Math.round(w.waterings.middle) : "–"}</td>
              <td>{w.mown_days ? Math.round(w.mown_days.middle) : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
