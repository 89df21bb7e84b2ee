// The texture triangle: clay upward, sand to the left, silt to the right; the classes with their names, and a soil as a ring on it.
import type { Schemas } from "../../api";
import classes from "./Soil.module.css";

type Point = { sand: number; clay: number; texture: Schemas["Texture"]; label: string };

const WIDE = 320;
const HIGH = (WIDE * Math.sqrt(3)) / 2;
const LEFT = 34;
const TOP = 16;

/** Where a soil lies: the left corner is sand, the right one silt, the top clay. */
const at = (sand: number, clay: number): [number, number] => [
  LEFT + (WIDE * (100 - sand - clay / 2)) / 100,
  TOP + HIGH * (1 - clay / 100),
];

const SHORT: Partial<Record<Schemas["Texture"], string[]>> = {
  loamy_sand: ["loamy", "sand"],
  sandy_loam: ["sandy loam"],
  silt_loam: ["silt loam"],
  sandy_clay_loam: ["sandy clay", "loam"],
  clay_loam: ["clay", "loam"],
  silty_clay_loam: ["silty clay", "loam"],
  sandy_clay: ["sandy", "clay"],
  silty_clay: ["silty", "clay"],
};

/** Names that would not stand in the middle of their area. */
const NUDGE: Partial<Record<Schemas["Texture"], [number, number]>> = {
  sand: [-3, 11],
  loamy_sand: [7, -3],
  silt: [1, 4],
};

export function Triangle({ soils, points }: { soils: Schemas["SoilEntry"][]; points: Point[] }) {
  const here = points.map((p) => p.label).join("; ");
  return (
    <figure className={classes.figure}>
      <svg
        viewBox={`0 0 ${WIDE + 2 * LEFT} ${HIGH + TOP + 44}`}
        className={classes.triangle}
        role="img"
        aria-label={`Texture triangle${here ? `: ${here}` : ""}`}
      >
        {soils.map((soil) => {
          const corners = soil.area_pct.map(([sand = 0, clay = 0]) => at(sand, clay));
          const inside = points.some((p) => p.texture === soil.key);
          const n = corners.length;
          const [dx, dy] = NUDGE[soil.key] ?? [0, 0];
          const x = corners.reduce((sum, c) => sum + c[0], 0) / n + dx;
          const y = corners.reduce((sum, c) => sum + c[1], 0) / n + dy;
          const lines = SHORT[soil.key] ?? [soil.name.toLowerCase()];
          return (
            <g key={soil.key} data-here={inside || undefined} className={classes.class}>
              <polygon points={corners.map((c) => c.join(",")).join(" ")} />
              {lines.map((line, i) => (
                <text key={line} x={x} y={y + (i - (lines.length - 1) / 2) * 11 + 3} textAnchor="middle">
                  {line}
                </text>
              ))}
            </g>
          );
        })}
        <Scale />
        {points.map((p) => {
          const [x, y] = at(p.sand, p.clay);
          return (
            <g key={p.label}>
              <circle cx={x} cy={y} r={8} className={classes.ring} />
              <circle cx={x} cy={y} r={2.5} fill="var(--ink)" />
            </g>
          );
        })}
      </svg>
      <figcaption className="quiet">Shares in %: up to the top all clay, left all sand, right all silt.</figcaption>
    </figure>
  );
}

/** The three scales, at each fifth. */
function Scale() {
  const fifths = [20, 40, 60, 80];
  return (
    <g className={classes.scale}>
      {fifths.map((pct) => {
        const clay = at(100 - pct, pct);
        const silt = at(0, 100 - pct);
        const sand = at(pct, 0);
        return (
          <g key={pct}>
            <text x={clay[0] - 6} y={clay[1] + 4} textAnchor="end">
              {pct}
            </text>
            <text x={silt[0] + 6} y={silt[1] + 4}>
              {pct}
            </text>
            <text x={sand[0]} y={sand[1] + 14} textAnchor="middle">
              {pct}
            </text>
          </g>
        );
      })}
      <text x={at(50, 50)[0] - 26} y={at(50, 50)[1] - 6} textAnchor="end">
        clay
      </text>
      <text x={at(0, 50)[0] + 26} y={at(0, 50)[1] - 6}>
        silt
      </text>
      <text x={at(50, 0)[0]} y={at(50, 0)[1] + 32} textAnchor="middle">
        sand
      </text>
    </g>
  );
}
