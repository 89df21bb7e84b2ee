// A planned run in words.
import type { Cell } from "../../api";
import { minutes } from "../../time";

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
