// What is said of dormancy. The server decides; here it is put into words.
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";
import { whenDay } from "../../time";
import { SPOTS } from "../soil/words";
import type { DormancyDay, Regime, ZoneStress } from "./queries";

export const REGIME: Record<Regime, string> = {
  established: "kept green",
  seedbed: "new seed",
  filling_in: "new grass, filling in",
  dormant: "let go",
  recovering: "waking",
  off: "off",
};

type Proposes = Schemas["Proposes"];
export type Rules = Schemas["DormancyRules"];

export const pct = (share: number) => Math.round(100 * share);

/** Why a zone is to be walked. */
export function dueWords(due: Schemas["WalkDue"], today: string, units: Shown): string {
  switch (due.due) {
    case "heat":
      return `${units.show("temperature", due.tmax_c)} ${whenDay(due.date, today)}`;
    case "near_limit":
      return `${pct(due.used)} % of what may be used of its water is gone`;
    case "safety":
      return due.left_days < 0
        ? "it sleeps, longer in heat than it usually survives"
        : `it sleeps, ${Math.floor(due.left_days)} days of heat left`;
  }
}

/** Which zones are to be walked, reason by reason: `32 °C today: East bank, West bank; …`. */
export function dueTogether(zones: ZoneStress[], today: string, units: Shown): string {
  const byReason = new Map<string, string[]>();
  for (const z of zones) {
    if (!z.walk_due) continue;
    const reason = dueWords(z.walk_due, today, units);
    byReason.set(reason, [...(byReason.get(reason) ?? []), z.name]);
  }
  return [...byReason].map(([reason, names]) => `${reason}: ${names.join(", ")}`).join("; ");
}

/** What a day of heat strains. */
export const STEPS: Record<Schemas["HeatStep"], string> = { edges: "hot edges", whole: "all of it" };

/** What to do in heat. */
export const DEEDS: Record<Schemas["HeatDeed"], string> = {
  water_edges: "Water hot edges by hand, early: paving, slopes that face the sun, thin soil.",
  soak_before: "Water deeply at the dawn before, not a little each day.",
  mow_higher: "Mow higher and less, with a sharp blade, not at noon.",
  no_mowing: "Do not mow.",
  no_feeding_no_spraying: "No feeding and no weed sprays: their labels say up to which temperature.",
  less_traffic: "Keep feet, play and wheels off.",
  watch_for_disease: "Warm humid nights: look for disease in the morning, water at dawn alone.",
  work_early: "Work early, in shade, with water at hand, not alone: heat makes people ill.",
};

/** Why leaves are not cooled. */
export const notCoolingWords = (not: Schemas["NoCooling"]): string =>
  not.because === "humid"
    ? `no: the air is humid (${Math.round(not.rh_min_pct)} % at the least)`
    : "no: a local rule forbids water at midday";

type Means = Schemas["Means"];

/** What a look at a zone means, and what to do at once. */
export function meansWords(means: Means, units: Shown): { what: string; deed: string } {
  switch (means.means) {
    case "fine":
      return { what: "It has water", deed: "Nothing to do." };
    case "thirsty":
      return means.far
        ? {
            what: "Thirsty for some time",
            deed: "Water it at the next allowed hour, the driest places by hand at once.",
          }
        : {
            what: "It begins to be thirsty",
            deed: "Give the driest places a little by hand.",
          };
    case "thirsty_spot":
      return {
        what: `Thirsty ${SPOTS[means.spot]} alone`,
        deed: "Water that place by hand, early; the sprinklers need not run for it.",
      };
    case "not_thirst":
      return {
        what: "Not thirst: its soil is moist",
        deed: "More water makes it worse. Look for wet feet, disease, grubs or a spill; the balance stays as it was.",
      };
    case "asleep":
      return { what: "Asleep: brown, and alive", deed: "Its crowns live. Keep feet and mower off." };
    case "look_at_crowns":
      return {
        what: "Asleep or dead: its crowns tell",
        deed: "Part the blades and look: green, or white and firm, lives. Pull at it too.",
      };
    case "dead":
      return { what: "Dead at the crown", deed: "It does not come back. Note how much of it, for seed in its season." };
    case "lifts":
      return {
        what: "It comes away from the soil",
        deed: `Cut a square and count grubs below it; from ${units.system === "us" ? "6 to 10 in a square foot" : "60 to 110 in a square metre"} they are treated, by the label. Without grubs roots are shallow: look at its crowns.`,
      };
    case "wet":
      return { what: "Water stands", deed: "Do not water. Look for a head that leaks, a low place, or hard ground." };
    case "hard":
      return { what: "Hard though moist", deed: "Pull cores in the grass’s season, not in heat." };
  }
}

/** Why something is proposed. */
export function proposalWords(proposes: Proposes, rules: Rules, units: Shown): string {
  switch (proposes.proposes) {
    case "let_go":
      return `On ${proposes.dry_days} of the last ${rules.of_days} days more than ${pct(rules.dry_share)} % of its water were gone: it falls asleep by itself.`;
    case "wake":
      return `It has slept for ${proposes.asleep_days} days, ${units.show("depth", proposes.rain_mm)} of rain fell in ${rules.rain_days} days, and the last ${proposes.mild_days} were mild.`;
  }
}

/** `12 mm on Fri 24 July, three weeks after the last wetting.` */
export function crownWords(crowns: Schemas["CrownsDue"], today: string, units: Shown): string {
  const when = crowns.due <= today ? "due now" : whenDay(crowns.due, today);
  return `${units.show("depth", crowns.depth_mm)}, ${when}`;
}

/** What dormant turf still waits for before it is proposed to wake it. */
export function wakingWords(waking: Schemas["Waking"], rules: Rules, units: Shown): string {
  return `${waking.asleep_days} of ${rules.asleep_days} days asleep; ${units.show("depth", waking.rain_mm)} of ${units.show("depth", rules.rain_mm)} of rain in ${rules.rain_days} days; ${waking.mild_days} of ${rules.mild_days} mild days running`;
}

/** How full of use its store is, %. */
export const usedPct = (day: DormancyDay) => pct(day.used);

/** First those of which something is proposed, then who sleeps and wakes. */
export function inOrder(zones: ZoneStress[]): ZoneStress[] {
  const rank = (z: ZoneStress) =>
    z.proposes ? 0 : z.regime === "dormant" ? 1 : z.regime === "recovering" ? 2 : z.now && z.now.used > 0.5 ? 3 : 4;
  return [...zones].sort((a, b) => rank(a) - rank(b));
}
