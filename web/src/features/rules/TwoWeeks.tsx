// The next two weeks under the rules: who may water when. Zones that may alike share a row.
import type { Schemas } from "../../api";
import { clock, shortDay } from "../../time";
import type { AllowedDay } from "./queries";
import classes from "./Rules.module.css";

type Props = { days: AllowedDay[]; zones: { id: string; name: string }[]; timeZone: string };

type Open = { from: string; to: string; start: number; end: number };
type CellOf = { open: Open[]; rule: number | undefined };

export function TwoWeeks({ days, zones, timeZone }: Props) {
  const cellOf = (day: AllowedDay, zone: string): CellOf => ({
    open: merged(day.windows.filter((w) => !w.barred.includes(zone))).map((w) => {
      const [from, to] = [clock(w.opens, timeZone), clock(w.closes, timeZone)];
      return { from, to, start: dayHours(from), end: dayHours(to) };
    }),
    rule: day.closed.find((c) => c.zone === zone)?.rule,
  });
  const rows = new Map<string, { names: string[]; cells: CellOf[] }>();
  for (const zone of zones) {
    const cells = days.map((day) => cellOf(day, zone.id));
    const key = JSON.stringify(cells);
    const row = rows.get(key);
    if (row) row.names.push(zone.name);
    else rows.set(key, { names: [zone.name], cells });
  }
  const all = [...rows.values()].flatMap((row) => row.cells.flatMap((cell) => cell.open));
  const first = Math.min(...all.map((o) => o.start), 24);
  const last = Math.max(...all.map((o) => o.end), 0);
  const stages = days.some((day) => day.stage);
  const alone = rows.size === 1;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
    <section className={classes.scroll} tabIndex={0} aria-label="The next two weeks">
      <table className={classes.weeks}>
        <caption className="hidden">Who may water when in the next two weeks</caption>
        <thead>
          <tr>
            <th scope="col">Zones</th>
            {days.map((day) => (
              <th key={day.date} scope="col">
                {shortDay(day.date)}
              </th>
            ))}
          </tr>
          {stages && (
            <tr>
              <th scope="row">Stage</th>
              {days.map((day, i) => (
                <td key={day.date}>
                  {day.stage !== days[i - 1]?.stage ? (day.stage ?? "none") : <span aria-hidden="true">″</span>}
                </td>
              ))}
            </tr>
          )}
        </thead>
        <tbody>
          {[...rows.values()].map((row) => (
            <tr key={row.names.join()}>
              <th scope="row">{alone ? "All zones" : row.names.join(", ")}</th>
              {row.cells.map((cell, i) => (
                <td key={days[i]?.date} data-closed={cell.open.length === 0 || undefined}>
                  <Hours open={cell.open} first={first} last={last} />
                  {cell.open.length > 0
                    ? cell.open.map((o) => <span key={o.from}>{hours(o)}</span>)
                    : cell.rule === undefined
                      ? "closed"
                      : `rule ${cell.rule + 1}`}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Windows that touch are one to a zone that may in both. */
function merged(windows: Schemas["AllowedWindow"][]) {
  const open: { opens: string; closes: string }[] = [];
  for (const w of windows) {
    const last = open[open.length - 1];
    if (last?.closes === w.opens) last.closes = w.closes;
    else open.push({ opens: w.opens, closes: w.closes });
  }
  return open;
}

const dayHours = (time: string) => Number(time.slice(0, 2)) + Number(time.slice(3, 5)) / 60;

const short = (time: string) => (time.endsWith(":00") ? String(Number(time.slice(0, 2))) : time);
const hours = (o: Open) => `${short(o.from)}–${short(o.to)}`;

/** The allowed hours on a scale that all days share. */
function Hours({ open, first, last }: { open: Open[]; first: number; last: number }) {
  const width = Math.max(1, last - first);
  return (
    <svg className={classes.hours} viewBox={`0 0 ${width} 1`} preserveAspectRatio="none" aria-hidden="true">
      {open.map((o) => (
        <rect key={o.from} x={o.start - first} width={o.end - o.start} height="1" />
      ))}
    </svg>
  );
}
