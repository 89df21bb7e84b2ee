// What meters and their figures are called.
import type { Schemas } from "../../api";
import { amount } from "../../money";
import type { Shown } from "../../quantities";
import { clock, localDate, longDay, sentenceCase } from "../../time";
import type { Finding, FlowFinding, Meter } from "./queries";

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
function findingWords(
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

/** What was named, in a few words; the meter is told where it is not clear which. */
export function namedWords(kind: FlowFinding["named"]["kind"], zone: string, meter?: string): string {
  const of = (words: string) => (meter ? `${meter}: ${words}` : words);
  switch (kind) {
    case "leak":
      return of("a leak");
    case "more_than_normal":
      return `${zone}: a head is broken or gone`;
    case "less_than_normal":
      return `${zone}: heads are clogged, or its valve opens too little`;
    case "did_not_run":
      return `${zone}: nothing flowed`;
    case "stays_open":
      return `${zone}: its valve closes late`;
    case "by_hand":
      return of("water that nobody noted");
    case "wrong_rate":
      return `${zone}: takes another flow than its rate says`;
  }
}

/** What a flow meter says: a title, and what it comes to. */
function flowWords(
  f: FlowFinding,
  units: Shown,
  timeZone: string,
  currency: string | null | undefined,
): { title: string; detail: string } {
  const zone = f.zone_name ?? f.meter_name;
  const since = `since ${longDay(localDate(f.since, timeZone))}`;
  const volume = (litres: number) => units.show("volume", Math.abs(litres));
  const flow = (litresAMinute: number) => units.show("hose_flow", litresAMinute);
  const cost = f.cost_a_week != null && f.cost_a_week > 0 ? `, ${amount(f.cost_a_week, currency)}` : "";
  const week = `${volume(f.litres_a_week)}${cost} in the last seven days.`;
  const title = namedWords(f.named.kind, zone, f.meter_name);
  switch (f.named.kind) {
    case "leak":
      return {
        title,
        detail: `${sentenceCase(since)} about ${units.show("bucket", f.named.litres_an_hour)} flow each hour with nothing on: ${week} Shut zones off one by one, or look for wet ground.`,
      };
    case "more_than_normal":
      return {
        title,
        detail: `${sentenceCase(since)} it takes ${flow(f.named.now_l_min)} instead of ${flow(f.named.normal_l_min)}: ${week} Walk it while it runs. If its nozzles were changed, test its rate: then this is its normal.`,
      };
    case "less_than_normal":
      return {
        title,
        detail: `${sentenceCase(since)} it takes ${flow(f.named.now_l_min)} instead of ${flow(f.named.normal_l_min)}: ${volume(f.litres_a_week)} are missing of the last seven days. If its nozzles were changed, test its rate: then this is its normal.`,
      };
    case "did_not_run":
      return {
        title,
        detail: `On ${longDay(localDate(f.since, timeZone))} its valve should have been open at ${clock(f.since, timeZone)}. Look at valve and wire; say under What ran that it did not run.`,
      };
    case "stays_open":
      return {
        title,
        detail: `On ${longDay(localDate(f.since, timeZone))} water went on for ${f.named.minutes} min after its pass: ${week}`,
      };
    case "by_hand":
      return {
        title,
        detail: `On ${longDay(localDate(f.since, timeZone))} at ${clock(f.since, timeZone)} for ${f.named.minutes} min with nothing on: ${volume(f.litres_a_week)}. If somebody watered by hand, note it.`,
      };
    case "wrong_rate":
      return {
        title,
        detail: `${flow(f.named.now_l_min)} instead of ${flow(f.named.rated_l_min)}: ${
          f.offers
            ? "what its last five passes took, over its area, makes a quick test."
            : "a quick test by the meter gives the plan the right rate."
        }`,
      };
  }
}

/** What a meter says, and the zone's rate that it offers. */
export type Said = {
  key: string;
  meter: string;
  title: string;
  detail: string;
  offers?: { zone: number; name: string; test: Schemas["MeteredTest"] };
};

/** Everything that a site's meters say, what the flow tells first: it says where. A leak by the readings is the same water again. */
export function allFindings(
  found: Schemas["Findings"] | undefined,
  units: Shown,
  timeZone: string,
  currency: string | null | undefined,
): Said[] {
  const flow = found?.flow ?? [];
  const told = new Set(flow.map((f) => String(f.meter)));
  return [
    ...flow.map((f) => ({
      key: `flow-${f.meter}-${f.named.kind}-${f.zone ?? ""}`,
      meter: String(f.meter),
      ...flowWords(f, units, timeZone, currency),
      ...(f.offers && f.zone ? { offers: { zone: f.zone, name: f.zone_name ?? "", test: f.offers } } : {}),
    })),
    ...(found?.readings ?? [])
      .filter((f) => !told.has(f.meter))
      .map((f) => ({ key: `meter-${f.meter}`, meter: f.meter, ...findingWords(f, units, timeZone, currency) })),
  ];
}

/** A difference so small that it is no news: less than a fiftieth of what ran, and less than a count of the meter. */
export const isClose = (difference: number, run: number, count: number) =>
  Math.abs(difference) <= Math.max(0.02 * run, count);
