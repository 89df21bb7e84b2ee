// What meters and their figures are called.
import type { Schemas } from "../../api";
import { amount } from "../../money";
import type { Shown } from "../../quantities";
import { localDate, longDay } from "../../time";
import type { Finding, Meter } from "./queries";

type Unit = Schemas["MeterUnit"];

export const METER_UNITS: { value: Unit; label: string }[] = [
  { value: "m3", label: "m³" },
  { value: "l", label: "L" },
  { value: "ft3", label: "ft³" },
  { value: "ccf", label: "CCF (100 ft³)" },
  { value: "gal", label: "gal" },
  { value: "kgal", label: "kgal (1000 gal)" },
];

const unitName = (unit: Unit) => METER_UNITS.find((u) => u.value === unit)?.label ?? unit;

/** What one count of a meter stands for: `m³`, `10 gal`. */
export const countWords = (meter: Meter): string =>
  meter.multiplier && meter.multiplier !== 1 ? `× ${meter.multiplier} ${unitName(meter.unit)}` : unitName(meter.unit);

/** A figure of a meter with the digits that it shows. */
export const registerWords = (meter: Meter, register: number): string =>
  register.toFixed(meter.decimals ?? 0).padStart(meter.digits + (meter.decimals ? meter.decimals + 1 : 0), "0");

/** What may be behind it, with how it shows. */
const CAUSES: Record<Schemas["FindingCause"], string> = {
  leak: "a leak or a valve that does not close: does the counter turn with nothing on?",
  broken_heads: "heads that are gone or broken",
  not_noted: "watering that nobody noted",
  did_not_run: "runs that did not happen (say so where they are listed)",
  clogged_heads: "clogged heads",
  wrong_rate: "a zone’s rate that is not what the plan takes it to be (a quick test by the meter tells)",
};

/** What a meter says beside the runs: a title, what it comes to, and where to look first. */
export function findingWords(
  f: Finding,
  units: Shown,
  timeZone: string,
  currency: string | null | undefined,
): { title: string; detail: string } {
  const more = f.litres > 0;
  const volume = (litres: number) => units.show("volume", Math.abs(litres));
  const cost = f.cost_a_week != null && more ? `, ${amount(f.cost_a_week, currency)}` : "";
  const [first, ...others] = f.causes.map((cause) => CAUSES[cause]);
  const then = others.length > 0 ? ` Then for ${others.join(", ")}.` : "";
  return {
    title: `${f.name}: ${volume(f.litres)} ${more ? "more" : "less"} flowed than ran`,
    detail: `Since ${longDay(localDate(f.since, timeZone))}, about ${volume(f.litres_a_week)}${cost} a week. Look first for ${first}${first?.endsWith("?") ? "" : "."}${then}`,
  };
}
