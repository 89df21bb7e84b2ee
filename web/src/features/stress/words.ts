// What is said of dormancy. The server decides; here it is put into words.
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";
import { whenDay } from "../../time";
import type { DormancyDay, Regime, ZoneStress } from "./queries";

export const REGIME: Record<Regime, string> = {
  established: "kept green",
  seedbed: "new seed",
  dormant: "let go",
  recovering: "waking",
  off: "off",
};

type Proposes = Schemas["Proposes"];

/** Why something is proposed. */
export function proposalWords(proposes: Proposes, units: Shown): string {
  switch (proposes.proposes) {
    case "let_go":
      return `On ${proposes.dry_days} of the last 9 days more than nine tenths of its water were gone: it falls asleep by itself.`;
    case "wake":
      return `It has slept for ${proposes.asleep_days} days, ${units.show("depth", proposes.rain_mm)} of rain fell in ten days, and the last ${proposes.mild_days} were mild.`;
  }
}

/** `12 mm on Fri 24 July, three weeks after the last wetting.` */
export function crownWords(crowns: Schemas["CrownsDue"], today: string, units: Shown): string {
  const when = crowns.due <= today ? "due now" : whenDay(crowns.due, today);
  return `${units.show("depth", crowns.depth_mm)}, ${when}`;
}

/** What dormant turf still waits for before it is proposed to wake it. */
export function wakingWords(waking: Schemas["Waking"], units: Shown): string {
  return `${waking.asleep_days} of 21 days asleep; ${units.show("depth", waking.rain_mm)} of ${units.show("depth", 12)} of rain in ten days; ${waking.mild_days} of 5 mild days running`;
}

/** How full of use its store is, %. */
export const usedPct = (day: DormancyDay) => Math.round(100 * day.used);

/** First those of which something is proposed, then who sleeps and wakes. */
export function inOrder(zones: ZoneStress[]): ZoneStress[] {
  const rank = (z: ZoneStress) =>
    z.proposes ? 0 : z.regime === "dormant" ? 1 : z.regime === "recovering" ? 2 : z.now && z.now.used > 0.5 ? 3 : 4;
  return [...zones].sort((a, b) => rank(a) - rank(b));
}
