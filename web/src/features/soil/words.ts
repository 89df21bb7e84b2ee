// The trade's words for tests of the soil and for what is seen.
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";
import { dayMonth } from "../../time";
import type { Layer, Observation } from "./queries";

export type Method = Schemas["SoilTest"]["method"];

type Named = { name: string; what: string; time: string };

/** Tests in the order in which they are worth knowing about. */
export const TESTS: Record<Method, Named> = {
  squeeze: { name: "Squeeze test", what: "texture by hand", time: "5 min" },
  jar: { name: "Jar test", what: "sand, silt and clay", time: "15 min, and a day's wait" },
  lab: { name: "Laboratory", what: "shares from a report", time: "2 min" },
  ring: { name: "Ring test", what: "how fast it drinks", time: "1 to 2 h" },
  runoff: { name: "Runoff test", what: "the longest pass", time: "30 min" },
  core: { name: "Pulled core", what: "roots and layers", time: "5 min" },
  drops: { name: "Drop test", what: "does it repel water", time: "5 min" },
};

export const METHODS = Object.keys(TESTS) as Method[];

export const isMethod = (text: string): text is Method => text in TESTS;

export const REPELLENCY: Record<Schemas["Repellency"], string> = {
  wettable: "takes water",
  slight: "slightly water-repellent",
  strong: "strongly water-repellent",
  severe: "severely water-repellent",
  extreme: "extremely water-repellent",
};

export const layerName = (layer: Layer, soils: Schemas["SoilEntry"][]) =>
  layer.lies === "ledge"
    ? "ledge or rubble"
    : (soils.find((s) => typeof layer.lies === "object" && s.key === layer.lies.soil)?.name.toLowerCase() ?? "soil");

/** A piece of advice, as a sentence. */
export function adviceWords(advice: Schemas["Advice"]): string {
  switch (advice.advice) {
    case "aerate":
      return `Pull cores between ${dayMonth(advice.from)} and ${dayMonth(advice.to)}, while this grass grows and closes the holes; before a pre-emergent, not through it.`;
    case "time_the_runoff":
      return "Time the minutes until water stands: it sets the longest pass.";
    case "drop_test":
      return "Put drops of water on dry soil from the spot: does it repel them?";
    case "check_the_heads":
      return "Look at the heads around it, and set out cans.";
    case "wetting_agent":
      return "A wetting agent at its label’s rate, drenched in, and again after it has dried: weeks, not hours. Read the label first.";
    case "water_by_hand":
      return "Give the driest places a little by hand.";
  }
}

type Noted = Observation["seen"];

/** What is tapped at once, with the key for it. */
export const AT_ONCE = [
  { seen: "footprints", label: "Footprints", key: "1" },
  { seen: "dull_colour", label: "Dull colour", key: "2" },
  { seen: "tips", label: "Straw tips", key: "3" },
  { seen: "puddles", label: "Puddles", key: "4" },
  { seen: "runoff", label: "Runs off", key: "5" },
  { seen: "dry_spot", label: "Dry spot", key: "6" },
  { seen: "compaction", label: "Trodden hard", key: "7" },
] as const satisfies { seen: Noted; label: string; key: string }[];

/** What wants a figure. */
export const WITH_FIGURE = [
  { seen: "screwdriver", label: "Screwdriver", key: "8" },
  { seen: "moisture", label: "Probe", key: "9" },
  { seen: "thatch", label: "Thatch", key: "0" },
] as const satisfies { seen: Noted; label: string; key: string }[];

export const STOPPED: Record<Schemas["StoppedBy"], string> = {
  dry: "dry soil stopped it",
  hard: "it is hard though moist",
  nothing: "it went in all the way",
};

const FOOTPRINTS: Record<Schemas["FootprintsStay"], string> = {
  rise: "footprints rise at once",
  minutes: "footprints stay",
  half_hour: "footprints stay half an hour",
};

/** Places that dry out first, within a sentence. */
export const SPOTS: Record<Schemas["HotSpot"], string> = {
  paving: "along paving or a wall",
  sunny_slope: "the slope that faces the sun",
  tree_edge: "outside a tree’s drip line",
  thin_soil: "where soil is thin",
  windy_corner: "the windy corner",
};

/** All that was seen at one look, within a sentence. */
export const lookWords = (
  look: { seen: Observation; with?: Observation[]; spot?: Schemas["HotSpot"] | null },
  units: Shown,
): string =>
  [look.seen, ...(look.with ?? [])].map((seen) => seenWords(seen, units)).join(", ") +
  (look.spot ? ` (${SPOTS[look.spot]})` : "");

/** What is to be seen of new grass, within a sentence. */
export const GROWN: Record<Schemas["Grown"], string> = {
  first_blades: "first blades are up",
  filling_in: "it fills in",
  mown_once: "mown for the first time",
};

/** What was seen, within a sentence. */
export function seenWords(seen: Observation, units: Shown): string {
  switch (seen.seen) {
    case "footprints":
      return FOOTPRINTS[seen.stay ?? "minutes"];
    case "dull_colour":
      return "dull colour";
    case "tips":
      return "straw tips";
    case "patches":
      return "brown patches";
    case "tug":
      return seen.holds ? "it holds when tugged" : "it comes away when tugged";
    case "crowns":
      return seen.alive ? "crowns alive" : "crowns brown and brittle";
    case "puddles":
      return "puddles";
    case "runoff":
      return "water runs off";
    case "dry_spot":
      return "a dry spot";
    case "compaction":
      return "trodden hard";
    case "thatch":
      return `thatch of ${units.show("depth", seen.mm)}`;
    case "screwdriver":
      return `screwdriver ${units.show("root_depth", seen.depth_mm)}, ${STOPPED[seen.stopped]}`;
    case "grown":
      return GROWN[seen.grown];
    case "moisture":
      return seen.scale === "percent" ? `probe ${seen.reading} %` : `probe ${seen.reading}`;
  }
}
