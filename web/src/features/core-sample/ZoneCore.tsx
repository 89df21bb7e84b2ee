import type { Cell, ZonePlan } from "../../api";
import { useUnits } from "../../units";
import { isNewGrass } from "../reasons/words";
import { type Blades, CoreSample, type Tense } from "./CoreSample";

/** How the grass stands: by regime and stress. */
function blades(zone: ZonePlan, cell: Cell): Blades {
  if (isNewGrass(zone.regime)) return "seedling";
  if (zone.regime === "dormant") return "dormant";
  return cell.ks < 0.98 ? "wilting" : "fresh";
}

/** A zone's core on one day, at dawn before watering. */
export function ZoneCore(props: {
  zone: ZonePlan;
  cell: Cell;
  tense: Tense;
  deepest: number;
  width?: number;
  height?: number;
}) {
  const { zone, cell } = props;
  const units = useUnits();
  const dose = cell.run?.net_mm ?? 0;
  const { surface } = cell;
  // Of new grass the top is drawn, which alone matters until it is rooted.
  const water = surface
    ? { taw: surface.tew_mm, raw: surface.limit_mm ?? surface.tew_mm, depletion: surface.start_mm }
    : { taw: zone.taw_mm, raw: cell.raw_mm, depletion: cell.depletion_start_mm };
  const what = surface ? "gone from its top" : "used";
  const said =
    `${units.show("depth", water.depletion)} ${what} of ${units.show("depth", water.raw)} that may be` +
    (dose > 0 ? `, ${units.show("depth", dose)} to come` : "");
  return (
    <CoreSample
      width={props.width ?? 26}
      height={props.height ?? 60}
      soil={zone.soil}
      {...water}
      dose={dose}
      depth={zone.root_depth_mm / props.deepest}
      blades={blades(zone, cell)}
      tense={props.tense}
      label={said}
    />
  );
}
