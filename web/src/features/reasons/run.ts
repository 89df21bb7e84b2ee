// A planned run in words.
import type { Cell } from "../../api";
import { clock, minutes } from "../../time";

/** `06:10, 09:24 and 11:02`. */
const listed = (items: string[]) => new Intl.ListFormat("en-GB").format(items);

type Run = NonNullable<Cell["run"]>;

/** All that a cell has to run, in time order. */
export const runsOf = (cell: Cell): Run[] => [...(cell.run ? [cell.run] : []), ...cell.later.map((l) => l.run)];

/** `38 min in 2 passes`; of a portable `38 min in each of 6 places, 5 moves`. */
export function runWords(run: Run): string {
  const passes = run.passes > 1 ? ` in ${run.passes} passes` : "";
  if (run.settings <= 1) return `${minutes(run.run_s)}${passes}`;
  const moves = run.settings - 1;
  return `${minutes(run.run_s)}${passes} in each of ${run.settings} places, ${moves} move${moves === 1 ? "" : "s"}`;
}

/** `3 min at 06:10, 09:24 and 11:02`: short runs of a day over its slots; those of another length say it: `3 min at 06:10, 4 min at 13:05`. */
export function slotsWords(cell: Cell, timeZone: string): string {
  const groups: { length: string; at: string[] }[] = [];
  for (const run of runsOf(cell)) {
    const length = runWords(run);
    const at = clock(run.starts[0] ?? run.window.opens, timeZone);
    const last = groups.at(-1);
    if (last?.length === length) last.at.push(at);
    else groups.push({ length, at: [at] });
  }
  return groups.map(({ length, at }) => `${length} at ${listed(at)}`).join(", ");
}
