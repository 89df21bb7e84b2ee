// What a test says, in words.
import type { Schemas } from "../../api";
import { dayMonth } from "../../time";
import type { Units } from "../../units";

export const RATINGS: Record<Schemas["TestRating"], string> = {
  failing: "failing",
  poor: "poor",
  fair: "fair",
  good: "good",
  very_good: "very good",
  excellent: "excellent",
};

export function doubtWords(doubt: Schemas["Doubt"], units: Units): string {
  switch (doubt.doubt) {
    case "few_cans":
      return `${doubt.read} cans were read; a good test has ${doubt.wanted}.`;
    case "too_short":
      return `Little water in the cans: ${doubt.minutes} min would be enough.`;
    case "windy":
      return `Wind ${units.show("wind", doubt.wind_m_s)}; a good test has under ${units.show("wind", doubt.limit_m_s)}.`;
    case "unread":
      return `${doubt.cans} can${doubt.cans === 1 ? "" : "s"} without a reading.`;
    case "idle":
      return `Head${doubt.heads.length === 1 ? "" : "s"} ${doubt.heads.join(", ")} did not run.`;
    case "wind_not_noted":
      return "The wind was not noted.";
  }
}

/** What the pattern looks like, with its evidence; what to check first; what to do. */
export function patternWords(p: Schemas["Pattern"], units: Units): { looks: string; check: string } {
  const pct = (share: number) => `${Math.round(share * 100)} %`;
  switch (p.pattern) {
    case "dry_next_to_heads":
      return {
        looks: `Dry next to the heads (depth rises with distance, correlation ${p.correlation.toFixed(2)}).`,
        check: "Pressure first: mist means too much. Then sunk heads and worn nozzles.",
      };
    case "dry_midway":
      return {
        looks: `Dry midway between the heads (depth falls with distance, correlation ${p.correlation.toFixed(2)}).`,
        check: "Pressure first: big drops and a short throw mean too little. Then the spacing and the nozzles.",
      };
    case "weak_head":
      return {
        looks: `Head ${p.head} gives its neighbourhood ${pct(p.share)} of the mean.`,
        check: "Clogged, tilted, sunk, or aimed elsewhere? Clean, straighten, raise, aim; then test again.",
      };
    case "dry_side":
      return {
        looks: `Drier to the ${p.side} (${pct(p.share)} of the other side).`,
        check: "Wind during the test? Else pressure lost along the line, or mixed nozzles.",
      };
    case "dry_edge":
      return {
        looks: `Dry along the ${p.side} edge (${pct(p.share)} of the mean).`,
        check: "Do that edge's heads run, stand upright, throw inward? Else they are set back too far.",
      };
    case "dry_corner":
      return {
        looks: `Dry in the ${p.up} ${p.across} corner (${pct(p.share)} of the mean).`,
        check: "A head there is missing, clogged, or turned away.",
      };
    case "low_pressure":
      return {
        looks: `Low pressure: ${units.show("pressure", p.pressure_kpa)}; such sprinklers are made for ${units.show("pressure", p.usual_kpa)}.`,
        check:
          "Big drops and a short throw. A valve not fully open, a clogged filter, a leak, or too many heads at once; first this, then the rest.",
      };
    case "high_pressure":
      return {
        looks: `High pressure: ${units.show("pressure", p.pressure_kpa)}; such sprinklers are made for ${units.show("pressure", p.usual_kpa)}.`,
        check: "Mist that drifts. A regulator, or heads that regulate; first this, then the rest.",
      };
    case "wet_spot":
      return {
        looks: `Can ${p.can} caught ${pct(p.share)} of the mean.`,
        check: "A leak, a stuck rotor, heads that overlap, or a low head that drains.",
      };
  }
}

export const FAULTS: Record<Schemas["Fault"], string> = {
  tilted: "tilted",
  sunk: "sunk",
  clogged: "clogged",
  broken: "broken",
  at_paving: "waters paving",
  leaking: "leaking",
  wrong_nozzle: "wrong nozzle",
  misaimed: "sprays the wrong way",
};

/** How a test was made. */
export function methodWords(test: Schemas["SprinklerTest"], result: Schemas["TestResult"]): string {
  if (test.method === "cans") return `${result.read} cans`;
  switch (test.way) {
    case "to_depth":
      return `quick: ${result.read} can${result.read === 1 ? "" : "s"} and a watch`;
    case "meter":
      return "quick: meter over area";
    case "nozzle":
      return "quick: nozzle chart and spacing";
  }
}

/** Why a test may no longer hold. */
export function outdatedWords(o: Schemas["Outdated"]): string {
  switch (o.outdated) {
    case "over_a_year":
      return "over a year ago: measure again";
    case "head_at_fault":
      return `head ${o.head} is at fault since ${dayMonth(o.on)}: this no longer holds`;
    case "head_mended":
      return `head ${o.head}, at fault since ${dayMonth(o.noted_on)}, was repaired on ${dayMonth(o.on)}: measure again`;
  }
}

/** Why a wet check is due. */
export function wetDueWords(due: Schemas["WetCheckDue"]): string {
  switch (due.why) {
    case "first":
      return "None was done yet: two minutes a zone show what no dry walk does.";
    case "month":
      return `The last was on ${dayMonth(due.last)}: monthly in the season.`;
    case "mowing":
      return `A head that a mower may have hit was noted on ${dayMonth(due.noted)}: look for others.`;
  }
}
