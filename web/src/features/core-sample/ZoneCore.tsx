import type { Cell, ZonePlan } from "../../api";
import { useUnits } from "../../units";
import { type Blades, CoreSample, type Tense } from "./CoreSample";

/** How the grass stands: by regime and stress. */
function blades(zone: ZonePlan, cell: Cell): Blades {
  if (zone.regime === "seedbed") return "seedling";
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
  const known = zone.regime !== "seedbed";
  const said = !known
    ? "New seed: its water is not followed here yet"
    : `${units.show("depth", cell.depletion_start_mm)} used of ${units.show("depth", cell.raw_mm)} that may be` +
      (dose > 0 ? `, ${units.show("depth", dose)} to come` : "");
  return (
    <CoreSample
      width={props.width ?? 26}
      height={props.height ?? 60}
      soil={zone.soil}
      taw={zone.taw_mm}
      raw={cell.raw_mm}
      depletion={cell.depletion_start_mm}
      dose={dose}
      depth={zone.root_depth_mm / props.deepest}
      blades={blades(zone, cell)}
      tense={props.tense}
      known={known}
      label={said}
    />
  );
}
