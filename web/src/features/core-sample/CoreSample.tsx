// The core sample: a soil column drawn to scale in depth. Blades on top, water filled between wilting point and field capacity,
// a notch where watering is due, the dose hatched above the water.
import { useId } from "react";
import type { Schemas } from "../../api";

export type Blades = "fresh" | "wilting" | "dormant" | "seedling";
export type Tense = "past" | "today" | "ahead";

const SOILS: Record<Schemas["Texture"], { wet: string; dry: string }> = {
  sand: { wet: "#a5803f", dry: "#efe0bd" },
  loamy_sand: { wet: "#9a7338", dry: "#ecdcb8" },
  sandy_loam: { wet: "#8a6533", dry: "#e8d7b4" },
  loam: { wet: "#6f4f2f", dry: "#e3d3b6" },
  silt_loam: { wet: "#7a6140", dry: "#e6dac2" },
  silt: { wet: "#80694a", dry: "#e8ddc8" },
  sandy_clay_loam: { wet: "#87512f", dry: "#ead0b8" },
  clay_loam: { wet: "#75442c", dry: "#e4cab6" },
  silty_clay_loam: { wet: "#6d4531", dry: "#e0c8b8" },
  sandy_clay: { wet: "#8a4a2d", dry: "#ebccb8" },
  silty_clay: { wet: "#6c3f33", dry: "#dfc5ba" },
  clay: { wet: "#7c4027", dry: "#e6c8b6" },
};

/** The colour of a moist soil. */
export const soilColour = (soil: Schemas["Texture"]) => SOILS[soil].wet;

type Props = {
  width?: number;
  height?: number;
  soil: Schemas["Texture"];
  /** Total and readily available water, depletion and net dose, mm. */
  taw: number;
  raw: number;
  depletion: number;
  dose?: number;
  /** Root depth as a share of the deepest drawn beside it, 0 to 1. */
  depth?: number;
  blades: Blades;
  tense: Tense;
  /** Whether the water in it is known; if not, none is drawn. */
  known?: boolean;
  label: string;
};

const clamp = (x: number) => Math.min(1, Math.max(0, x));

export function CoreSample({ width = 26, height = 60, depth = 1, known = true, tense, label, ...p }: Props) {
  const hatch = useId();
  const grass = height * 0.2;
  const room = height - grass - 2;
  const column = room * (0.55 + 0.45 * clamp(depth));
  const left = width * 0.18;
  const wide = width * 0.64;
  const colours = SOILS[p.soil];
  const water = column * (1 - clamp(p.depletion / p.taw));
  const top = grass + column - water;
  const notch = grass + column * clamp(p.raw / p.taw);
  const dosed = column * clamp((p.dose ?? 0) / p.taw);
  const dash = tense === "ahead" ? "2.5 2" : undefined;
  return (
    <svg width={width} height={height} viewBox={`0 0 ${width} ${height}`} role="img" aria-label={label}>
      <defs>
        <pattern id={hatch} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="4" height="4" fill="#eaf3f6" />
          <rect width="2" height="4" fill="#1f617b" />
        </pattern>
      </defs>
      <g opacity={tense === "ahead" ? 0.72 : 1}>
        <rect x={left} y={grass} width={wide} height={column} fill={colours.dry} />
        {known && <rect x={left} y={top} width={wide} height={water} fill={colours.wet} />}
        {dosed > 0 && (
          <rect x={left} y={Math.max(grass, top - dosed)} width={wide} height={dosed} fill={`url(#${hatch})`} />
        )}
      </g>
      <rect
        x={left}
        y={grass}
        width={wide}
        height={column}
        rx={Math.min(3, width * 0.06)}
        fill="none"
        stroke="var(--ink)"
        strokeWidth={tense === "today" ? 2 : 0.9}
        strokeDasharray={dash}
      />
      {known && (
        <path d={`M0 ${notch}h${left}M${left + wide} ${notch}h${left}`} stroke="var(--ink)" strokeWidth="1.6" />
      )}
      <BladesPath kind={p.blades} left={left} wide={wide} ground={grass} />
    </svg>
  );
}

function BladesPath({ kind, left, wide, ground }: { kind: Blades; left: number; wide: number; ground: number }) {
  const at = (share: number) => left + wide * share;
  const shares = [0.14, 0.38, 0.62, 0.86];
  const paths: Record<Blades, { d: (x: number) => string; colour: string }> = {
    fresh: { d: (x) => `M${x} ${ground}L${x} ${ground * 0.18}`, colour: "#3f7a3a" },
    wilting: { d: (x) => `M${x} ${ground}q0 ${-ground * 0.6} ${wide * 0.2} ${-ground * 0.55}`, colour: "#5b7f87" },
    dormant: { d: (x) => `M${x} ${ground}l${wide * 0.14} ${-ground * 0.45}`, colour: "#a98235" },
    seedling: { d: (x) => `M${x} ${ground}v${-ground * 0.35}`, colour: "#6aa045" },
  };
  const { d, colour } = paths[kind];
  return (
    <g stroke={colour} strokeWidth={Math.max(1.4, wide * 0.09)} strokeLinecap="round" fill="none">
      {shares.map((share) => (
        <path key={share} d={d(at(share))} />
      ))}
    </g>
  );
}
