// A term of the trade, explained where it stands: by tap or by focus.
import { Tooltip } from "@mantine/core";
import classes from "./Term.module.css";

const TERMS = {
  "reference ET":
    "Reference evapotranspiration: what a well-watered, clipped grass would use in the day's weather. What every lawn uses is worked out from it.",
  "precipitation rate": "The depth of water that the sprinklers put down in an hour, as rain is measured.",
  "root depth": "How deep most roots go: from there the grass draws its water.",
  "available water": "The share of the soil that is water which grass can draw, between full and wilting.",
  intake: "How fast the soil drinks: what falls faster runs off, so a run is parted into passes with rests.",
  "spray loss": "The share of the water that the wind carries away and the air dries before it reaches the grass.",
  "site factor": "What sun, shade, wind and hot edges make of what the grass uses: 1 in the open, less in shade.",
  Kc: "Crop coefficient: what healthy turf of this kind uses, as a share of reference ET.",
  DU: "Distribution uniformity: what the driest quarter of the zone gets, as a share of the average. 1 would be perfectly even.",
  CU: "Christiansen's coefficient: 100 % less the mean distance of the cans from their average. It counts wet and dry alike.",
  "scheduling coefficient":
    "How many times longer the zone must run for its driest patch to get what the average gets.",
} as const;

export type TermName = keyof typeof TERMS;

export function Term({ name, children }: { name: TermName; children?: string }) {
  return (
    <Tooltip label={TERMS[name]} multiline w={280} withArrow events={{ hover: true, focus: true, touch: true }}>
      <button type="button" className={classes.term}>
        {children ?? name}
      </button>
    </Tooltip>
  );
}
