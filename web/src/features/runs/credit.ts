// What a run by hand or hose counts for, in words.
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";

type Watered = Schemas["Watered"];

/** `half of the zone`, `30 % of the zone`. */
const shareWords = (share: number) =>
  share >= 0.995 ? "all of the zone" : `${Math.max(1, Math.round(share * 100))} % of the zone`;

/** What watered, within a sentence. */
export function hoseWords(watered: Watered, units: Pick<Shown, "show">): string {
  switch (watered.by) {
    case "own":
      return shareWords(watered.share);
    case "hose":
      return `part of it, ${units.show("area", watered.reached_m2)} reached`;
    case "unmeasured":
      return "nobody says how much";
  }
}

/** What is done with a run that was noted. */
export const creditWords = (run: { how: Schemas["How"]; watered?: Watered | null }) =>
  (run.watered?.by ?? (run.how === "hose" ? "unmeasured" : "own")) === "unmeasured"
    ? "It is kept in the record; without flow and part it is not counted in the balance."
    : "Planned again with it.";
