import { parse } from "../../numbers";

/** What is wrong with typed minutes of a run; nothing if they hold. */
export function minutesProblem(typed: string): string | undefined {
  const minutes = parse(typed);
  if (minutes === undefined) return "Type the minutes that water ran.";
  // The server counts seconds, from 1 to a day of them.
  return minutes * 60 >= 1 && minutes <= 1440 ? undefined : "Between 1 second and 1440 minutes.";
}
