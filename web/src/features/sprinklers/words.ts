// What a test says, in words.
import type { Schemas } from "../../api";
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
    case "wind_not_noted":
      return "The wind was not noted.";
  }
}

/** What the pattern looks like, with its evidence; what to check first; what to do. */
export function patternWords(p: Schemas["Pattern"]): { looks: string; check: string } {
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
    case "wet_spot":
      return {
        looks: `Can ${p.can} caught ${pct(p.share)} of the mean.`,
        check: "A leak, a stuck rotor, heads that overlap, or a low head that drains.",
      };
  }
}
