// What each choice comes to, in words. The server computes.
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";
import { dayMonth, sentenceCase } from "../../time";
import { seedWords, workWords } from "./recoveryWords";

type Choice = Schemas["DecideZone"];
type Spread<T> = { low: T; middle: T; high: T; years: number };

/** `38.0 to 51.2`. */
export const range = (of: Spread<number>, show: (x: number) => string) => `${show(of.low)} to ${show(of.high)}`;

/** `28 August to 3 October`. */
export const dateRange = (of: Spread<string>) => `${dayMonth(of.low)} to ${dayMonth(of.high)}`;

const days = (of: Spread<number>, all: number) =>
  all > 1 && of.low !== of.high ? `${of.middle} days (${of.low} to ${of.high})` : `${of.middle} days`;

/** How much less it takes let go. */
export function savedShare({ green_l, crowns_l }: Choice): string {
  if (!green_l || !crowns_l || green_l.middle <= 0) return "";
  const saved = Math.round(100 * (1 - crowns_l.middle / green_l.middle));
  return saved > 0 ? `${saved} % less water.` : "It saves no water.";
}

/** When it is brown without water. Where rain keeps it from that it may still be thirsty: to keep it green takes water all the same. */
export function brownWords({ brown_in_days, green_l }: Choice, summers: number): string {
  const kept =
    (green_l?.middle ?? 0) > 0
      ? "rain alone kept it from turning brown, dull and thirsty at times"
      : "rain kept it green";
  if (!brown_in_days) return `${sentenceCase(kept)} in each of them.`;
  const green = summers - brown_in_days.years;
  return `Brown in ${days(brown_in_days, summers)}${green > 0 ? `; in ${green} of ${summers} summers ${kept}` : ""}.`;
}

/** Whether it lives. */
export function survivalWords({ survives_days, lost_with_crowns }: Choice, summers: number): string {
  const all = summers === 1 ? "that summer" : `all ${summers} summers`;
  const dry = survives_days?.years ?? 0;
  if (lost_with_crowns === 0 && !survives_days) return `It lives through ${all}, even without any water.`;
  const crowns =
    lost_with_crowns === 0 ? `It lives through ${all}` : `It is lost in ${lost_with_crowns} of ${summers} summers`;
  if (!survives_days) return `${crowns}.`;
  const lost = summers === 1 ? "" : `, in ${dry} of ${summers} too short`;
  return `${crowns}; without any water it lives ${days(survives_days, summers)}${lost}.`;
}

/** What it takes to make a zone anew. */
export function anewWords({ repair, area_m2 }: Choice, units: Shown): string {
  const of =
    repair.seed_kg == null
      ? `sod, sprigs or plugs over ${units.show("area", area_m2)}`
      : seedWords(repair.seed_kg, area_m2, units);
  return repair.work_min > 0 ? `${of}, about ${workWords(repair.work_min)} of work by hand` : of;
}
