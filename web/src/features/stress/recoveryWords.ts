// What is said of recovery and repair. The server decides; here it is put into words.
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";
import { dayMonth, longDay, whenDay } from "../../time";
import type { PatchView } from "./queries";

type Recovery = Schemas["Recovery"];

export const PATCH_STATE: Record<Schemas["PatchState"], string> = {
  unjudged: "not looked at closely",
  alive: "lives",
  dead: "dead",
  loose: "comes away, though its crowns live",
};

export const STEPS_OF_RECOVERY: Record<Schemas["RecoveryStep"], string> = {
  wet_well: "Wet it through to the roots.",
  rake_mats: "Rake the mats of dead blades loose.",
  feed: "Feed it.",
  judge: "Tell dead from asleep.",
};

/** When a step is. */
export function stepWords(step: Schemas["RecoveryStepDay"], recovery: Recovery, today: string): string {
  if (step.when === "past")
    return step.step === "wet_well" ? `Done on ${longDay(step.on)}.` : `Until ${longDay(step.on)}.`;
  const later = step.when === "later" ? whenDay(step.not_before, today) : "";
  switch (step.step) {
    case "wet_well":
      return "Now: the plan waters it as turf again.";
    case "rake_mats":
      return step.when === "now" ? "Now, before new blades are long." : "As soon as it is wet.";
    case "feed":
      return step.when === "now"
        ? "Now, as soon as you see new blades; a little, by the label."
        : `Once it grows: not before ${later}.`;
    case "judge":
      return step.when === "now"
        ? "Now: tug at each patch and look at its crowns; what is still brown is dead."
        : `Not before ${later}: after ${recovery.judged_after} mild days, of which there were ${recovery.mild_days}. A hot or cold day moves it.`;
  }
}

/** What closes a dead patch. */
export function closingWords(repair: Schemas["Repair"], area_m2: number, units: Shown): string {
  if (repair.closes_itself) return "closes by itself: feed and water it";
  if (repair.seed_kg != null) return seedWords(repair.seed_kg, area_m2, units);
  return `${repair.plugs} plugs, ${units.system === "us" ? "a foot" : "30 cm"} apart, or sod`;
}

/** `0.50 kg of seed, at 40 g/m²`. */
export const seedWords = (kg: number, area_m2: number, units: Shown) =>
  `${units.show("seed", kg)} of seed, at ${units.show("seed_rate", kg / area_m2)}`;

/** By when it is sown, and whether there is time to spray weeds first. */
export function sowWords(patch: PatchView, sow_by: Schemas["SowBy"] | null | undefined): string {
  const last = sow_by?.sow_by === "day" ? sow_by.date : "";
  switch (patch.sow?.sow) {
    case "spray_first":
      return `sow until ${dayMonth(last)}; time to spray weeds first, then from ${dayMonth(patch.sow.from)}`;
    case "now":
      return `sow now, until ${dayMonth(last)}: spraying first would cost the window`;
    case "too_late":
      return `too late this autumn (${dayMonth(last)}): in spring, or sod`;
    case "no_frost":
      return "no hard frost on record: before growth slows";
    case "not_known":
      return "no past autumn on record: ask locally until when";
    case undefined:
      return "in its growing season";
  }
}

/** `40 min`, `1¼ h`, `52 h` of work. */
export function workWords(minutes: number): string {
  if (minutes < 60) return `${Math.max(5, 5 * Math.round(minutes / 5))} min`;
  const quarters = Math.round(minutes / 15);
  if (quarters >= 40) return `${Math.round(minutes / 60)} h`;
  return `${Math.floor(quarters / 4)}${["", "¼", "½", "¾"][quarters % 4]} h`;
}
