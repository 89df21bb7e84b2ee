// What a soil test says: the triangle, the fitted curve, the core, and figures with what they mean.
import { Text } from "@mantine/core";
import type { Schemas, Zone } from "../../api";
import { useUnits } from "../../units";
import { Curve } from "./Curve";
import type { SoilResult } from "./queries";
import { SoilCore } from "./SoilCore";
import { Triangle } from "./Triangle";
import { REPELLENCY } from "./words";

type Props = { result: SoilResult; zone: Zone; soils: Schemas["SoilEntry"][] };

export function ResultView({ result, zone, soils }: Props) {
  const units = useUnits();
  const { texture, rings, intake_mm_h: intake, root_depth_mm: roots, repellency } = result;
  const runoff = result.minutes_to_runoff;
  return (
    <>
      {texture && <Texture told={texture} soils={soils} zone={zone} />}
      {rings.some((r) => r.points.length > 1) && <Curve rings={rings} />}
      {intake && (
        <Text role="status">
          <strong>It drinks {units.show("rate", intake.value)} in the end</strong>, somewhere between{" "}
          {units.figure("rate", intake.low)} and {units.show("rate", intake.high)}
          {rings.some((r) => r.fitted && r.straight_down_mm_h !== r.fitted.steady_mm_h)
            ? "; what spreads sideways below a single ring is taken off"
            : ""}
          .
        </Text>
      )}
      {runoff && (
        <Text role="status">
          <strong>Longest pass {runoff.value} min</strong>, as measured
          {result.soak_minutes ? `; it had gone in after ${result.soak_minutes.value} min` : ""}.
        </Text>
      )}
      {roots && (
        <>
          <SoilCore
            soil={zone.soil}
            soils={soils}
            layers={result.layers}
            roots={roots.value}
            range={[roots.low, roots.high]}
          />
          <Text role="status">
            <strong>Roots {units.show("root_depth", roots.value)} deep</strong>, between{" "}
            {units.figure("root_depth", roots.low)} and {units.show("root_depth", roots.high)}.
          </Text>
        </>
      )}
      {repellency && (
        <Text role="status">
          <strong>The ground {repellency === "wettable" ? "takes water" : `is ${REPELLENCY[repellency]}`}.</strong>
          {repellency !== "wettable" && " The plan waters in light passes with soaks until drops go in."}
        </Text>
      )}
    </>
  );
}

/** Which figures the zone goes by, and what the other table would say. */
function Texture({ told, soils, zone }: { told: Schemas["TextureResult"]; soils: Props["soils"]; zone: Zone }) {
  const units = useUnits();
  const name = soils.find((s) => s.key === told.texture)?.name ?? told.texture;
  const pct = (x: number) => `${(100 * x).toFixed(0)} %`;
  const shares = told.shares_pct;
  const other = zone.soil_figures === "saxton_rawls";
  return (
    <>
      {shares && (
        <Triangle
          soils={soils}
          points={[
            {
              sand: shares[0] ?? 0,
              clay: shares[2] ?? 0,
              texture: told.texture,
              label: `${name}: sand ${Math.round(shares[0] ?? 0)} %, silt ${Math.round(shares[1] ?? 0)} %, clay ${Math.round(shares[2] ?? 0)} %`,
            },
          ]}
        />
      )}
      <Text role="status">
        <strong>{name}</strong>
        {shares &&
          `: sand ${Math.round(shares[0] ?? 0)}, silt ${Math.round(shares[1] ?? 0)}, clay ${Math.round(shares[2] ?? 0)} %`}
        . By the Irrigation Association’s table it holds {pct(told.table_mm_per_mm)} of its depth and drinks{" "}
        {units.show("rate", told.table_intake_mm_h)}; by Saxton and Rawls it holds {pct(told.available_mm_per_mm)} (
        {pct(told.wilting_point)} at wilting, {pct(told.field_capacity)} at field capacity).
      </Text>
      <Text size="sm" className="quiet">
        This zone goes by{" "}
        {other ? "Saxton and Rawls, with passes by Green and Ampt" : "the Irrigation Association’s table"}
        {told.ks_mm_h != null &&
          `. Full of water it lets ${units.show("rate", told.ks_mm_h)} through, which is another thing than what it drinks from a sprinkler`}
        .
      </Text>
    </>
  );
}
