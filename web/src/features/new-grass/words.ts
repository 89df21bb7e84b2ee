// What is said of new grass. The server decides; here it is put into words.
import type { Schemas } from "../../api";
import { print } from "../../numbers";
import { counted } from "../../plural";
import type { Shown } from "../../quantities";
import { dayMonth, daysBetween, longDay } from "../../time";
import { grassName } from "../reasons/words";
import type { Grass, Method, SowingPoint, SowingWeek } from "./queries";

/** Whether it comes grown, and has to root. */
export const isTurf = (made: Schemas["NewGrassAs"]) => made === "sod" || made === "plugs";

/** What new grass is made of. */
export const MADE: Record<Schemas["NewGrassAs"], string> = {
  seed: "sown",
  overseed: "sown into the lawn that stands",
  sod: "laid as sod",
  plugs: "set as plugs",
};

/** What is to be seen next of new grass at a stage. */
export const NEXT_SEEN: Record<Schemas["Stage"], { grown: Schemas["Grown"]; label: string } | undefined> = {
  not_up: { grown: "first_blades", label: "First blades are up" },
  up: { grown: "filling_in", label: "It fills in: half the ground is green" },
  filling_in: { grown: "mown_once", label: "Mown for the first time" },
  established: undefined,
};

/** What says of new grass in doubt that it is alive as it was. */
export const STILL_ALIVE: Record<Schemas["Stage"], { grown: Schemas["Grown"]; label: string } | undefined> = {
  not_up: undefined,
  up: { grown: "first_blades", label: "It is alive" },
  filling_in: { grown: "filling_in", label: "It is alive" },
  established: undefined,
};

export const METHODS: Record<Method, string> = {
  seed: "Seed on bare ground",
  overseed: "Seed into a thin lawn",
  slit_seed: "Seed into slits",
  sod: "Sod",
  plugs: "Plugs",
  sprigs: "Sprigs",
  winter_rye: "Winter rye over it",
};

/** What is done on the day of sowing, by the way. */
export const SOWS: Record<Method, string> = {
  seed: "Sow",
  overseed: "Sow",
  slit_seed: "Sow",
  sod: "Lay the sod",
  plugs: "Set the plugs",
  sprigs: "Spread the sprigs",
  winter_rye: "Sow the rye",
};

/** What a point of the line is called. */
export function pointName(what: SowingPoint["what"], method: Method): string {
  switch (what) {
    case "spray":
      return "Spray weeds";
    case "soil_work":
      return "Work the soil";
    case "sow":
      return SOWS[method];
    case "up":
      return "First blades";
    case "weaning":
      return method === "sod" ? "It holds: water it less often" : "It fills in: water it less often";
    case "first_mowing":
      return "First mowing";
    case "weed_killers":
      return "Weed killers allowed again";
    case "frost":
      return "First hard frost";
    case "rye_ends":
      return "Let the rye go";
  }
}

/** Until when, of a point that past years tell. */
export const spreadWords = (spread: { low: string; middle: string; high: string; years: number }) =>
  spread.low === spread.high ? "" : `between ${dayMonth(spread.low)} and ${dayMonth(spread.high)} in past years`;

/** `9 of 12 past years`, `the one past year`. */
const inYears = (n: number, of: number) => (of === 1 ? "the one past year" : `${n} of ${of} past years`);

/** Why a day does not go with the others. */
export function clashWords(clash: SowingPoint["clashes"][number]): string {
  switch (clash.because) {
    case "over":
      return "that day is over";
    case "spray_wait":
      return `${clash.days} days must lie between spraying and sowing: the spray would harm the seedlings`;
    case "spray_works":
      return `the spray needs ${clash.days} days to work before the soil is turned`;
    case "worked_after":
      return "the soil is worked after sowing";
    case "season":
      return `${SEASONS[clash.season]} in ${inYears(clash.years, clash.of)}`;
    case "closed":
      return `${clash.days === 1 ? "one day" : `${clash.days} days`} of the first weeks without any watering${clash.rule ? ` by “${clash.rule}”` : ": the hours leave none"}`;
  }
}

/** What temperature has against a day. */
const SEASONS: Record<Schemas["SowingSeason"], string> = {
  good: "in season",
  too_cold: "the soil was too cold",
  too_hot: "it was too hot while its roots are young",
  frost: "hard frost came too soon",
};

/** How many past years a week was in season, and what was against it in the others. */
export function seasonWords(week: SowingWeek): string {
  const { good, too_cold, too_hot, frost } = week.seasons;
  if (week.years === 1) {
    const found = good > 0 ? "good" : too_cold > 0 ? "too_cold" : too_hot > 0 ? "too_hot" : "frost";
    return found === "good"
      ? "In season, by the one past year."
      : `Out of season: in the one past year ${SEASONS[found]}.`;
  }
  const against = [
    too_cold > 0 && `too cold in ${too_cold}`,
    too_hot > 0 && `too hot in ${too_hot}`,
    frost > 0 && `hard frost too soon in ${frost}`,
  ].filter(Boolean);
  return `${week.is_in_season ? "In season" : "Out of season"}: it was good in ${inYears(good, week.years)}${against.length > 0 ? `; ${against.join(", ")}` : ""}.`;
}

/** `3 stood, 2 thin, 7 failed`. */
export const fatesWords = (fates: SowingWeek["rain_fed"]) =>
  `${fates.stands} stood, ${fates.thin} were thin, ${fates.fails} failed`;

/** `18 (14–22)`. */
export const around = (
  spread: { low: number; middle: number; high: number },
  figure: (x: number) => string = (x) => String(Math.round(x)),
): string =>
  figure(spread.low) === figure(spread.high)
    ? figure(spread.middle)
    : `${figure(spread.middle)} (${figure(spread.low)}–${figure(spread.high)})`;

type Item = Schemas["SowingItem"];

/** Something to buy: what, how much, and how that comes about. */
export function itemWords(item: Item, labels: Schemas["SowingLabels"], units: Shown): [string, string, string] {
  const pct = (x: number) => `${Number(x.toFixed(1))}\u00a0%`;
  const mass = (kg: number) => `${print(Number(units.toField("seed", kg)), 3)} ${units.label("seed")}`;
  const rate = (g: number) => units.show("seed_rate", g / 1000);
  const cubic = (m3: number) => units.show("bulk", m3 * 1000);
  switch (item.item) {
    case "seed":
      return [
        `Seed of ${grassName(item.grass)}`,
        mass(item.bag_kg),
        `${units.inField("seed_rate", item.rate_g_m2 / 1000)} ${units.label("seed_rate")} of pure live seed are ${mass(item.pure_kg)}; at ${pct(labels.purity_pct)} purity and ${pct(labels.germination_pct)} germination`,
      ];
    case "starter":
      return [
        "Starter fertilizer",
        mass(item.kg),
        `${rate(item.nitrogen_g_m2)} of nitrogen at ${pct(labels.nitrogen_pct)}; with it ${rate(item.phosphate_g_m2)} of phosphate`,
      ];
    case "lime":
      return ["Lime", mass(item.kg), "as your soil test asks"];
    case "top_dressing":
      return [
        "Fine compost or sand",
        cubic(item.m3),
        `spread ${units.system === "us" ? units.show("depth", item.depth_mm) : `${item.depth_mm} mm`} deep`,
      ];
    case "sod":
      return ["Sod", units.show("area", item.m2), "a twentieth of it for cut edges; lay it on the day it comes"];
    case "plugs":
      return [
        "Plugs",
        String(item.count),
        `${units.show("root_depth", item.spacing_mm)} apart; they meet after ${Math.ceil(item.least_weeks)} to ${Math.ceil(item.most_weeks)} weeks of growth`,
      ];
    case "sprigs":
      return ["Sprigs", cubic(item.m3), "shredded stolons, moist and fresh"];
  }
}

/** A piece of work. */
export const TASKS: Record<Schemas["SowingTask"], string> = {
  spray: "Spray weeds, by the label: gloves, no wind, people and pets off until it is dry",
  lime: "Spread the lime and work it in",
  loosen: "Loosen the soil 5 to 10 cm (2 to 4 in) deep; call before you dig",
  level: "Rake it level and firm: a heel sinks in no deeper than a finger is thick",
  mow_low: "Mow low, and take the clippings off",
  rake_out: "Rake out dead grass until soil shows",
  aerate: "Aerate in two directions",
  slit_two_ways: "Cut the seed in, half of it each way across",
  starter: "Spread the starter",
  sow_two_ways: "Sow half of it lengthwise, half across",
  rake_in: "Rake it in, no deeper than 5 mm (¼ in): seed on top is wasted",
  roll: "Roll it lightly: seed and roots must touch soil",
  top_dress: "Cover it thinly",
  moisten: "Moisten the soil below",
  lay_sod: "Lay it tight, joints staggered, edges pressed in",
  set_plugs: "Set each plug level with the soil and press it in",
  spread_sprigs: "Spread the sprigs evenly",
  press_sprigs: "Press them into the soil",
  keep_moist: "From now on keep its top moist: the plan waters it at its slots",
  soak_through: "Soak it to below the mat within half an hour, then daily",
  tug: "Tug at it: where it holds, it roots",
  wean: "Water it less often: once a day, then every other day",
  first_mowing: "Mow for the first time: dry, a sharp blade, no more than a third",
  feed_again: "Feed it again",
  weed_killers: "Weed killers are allowed again by our rule; the label decides",
  rye_ends: "Let the rye go: water as turf again, mow low so that the turf below has light",
};

/** When a stage begins. */
export function stageWhen(stage: Schemas["StageDay"], today: string): string {
  switch (stage.when) {
    case "began":
      return `since ${dayMonth(stage.on)}, ${stage.seen ? "as seen" : "by warmth"}`;
    case "comes":
      return stage.by.low === stage.by.high
        ? `about ${longDay(stage.by.middle)}, in ${counted(daysBetween(today, stage.by.middle), "day")}`
        : `about ${longDay(stage.by.middle)} (${dayMonth(stage.by.low)} to ${dayMonth(stage.by.high)})`;
    case "not_known":
      return "no past year of weather tells when";
  }
}

/** What a stage is called, and what it wants. */
export const STAGE_WORK: Record<Schemas["Stage"], { name: string; waters: string; keeps: string }> = {
  not_up: {
    name: "Nothing is up yet",
    waters: "up to six times a day, at most 3 mm (⅛ in) each, so that its top never dries out",
    keeps: "nobody walks on it; no mower, no products",
  },
  up: {
    name: "It is up",
    waters: "at most twice a day, as deep as its top is dry",
    keeps: "nobody walks on it; no mower, no weed killers",
  },
  filling_in: {
    name: "It fills in",
    waters: "once a day, then every other day, as deep as its roots go",
    keeps: "walk on it only to mow it; no weed killers",
  },
  established: {
    name: "Mown for the first time",
    waters: "as turf, with young roots: a little and often, deeper each week",
    keeps: "light use; sport when it is closed",
  },
};

/** What sod and plugs want until they are mown. */
export const ROOTING = {
  name: "It roots",
  waters: "daily to below its mat; once it holds when tugged every other day",
  keeps: "nobody walks on it until it holds; no weed killers",
};

export const sownName = (grass: Grass, method: Method) =>
  method === "winter_rye" ? `winter rye over ${grassName(grass)}` : grassName(grass);

export const STAND: Record<Schemas["StandVerdict"], string> = {
  good: "A good stand: it closes by itself.",
  thin: "Thin: feed it, mow it often, and it may close; else sow into it in its season.",
  sparse: "Sparse: sow it again.",
};
