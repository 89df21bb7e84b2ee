// A pulled core to scale: the topsoil, what lies below, how deep the roots go.
import type { Schemas } from "../../api";
import { useUnits } from "../../units";
import { soilColour } from "../core-sample/CoreSample";
import type { Layer } from "./queries";
import classes from "./Soil.module.css";
import { layerName } from "./words";

type Props = {
  soil: Schemas["Texture"];
  soils: Schemas["SoilEntry"][];
  layers: Layer[];
  /** Depth of the roots, mm; and the range that they could have. */
  roots: number;
  range?: [number, number];
  height?: number;
  /** To a common scale, mm; else as deep as it needs. */
  deepest?: number;
  /** Without names beside it. */
  brief?: boolean;
};

export function SoilCore({ soil, soils, layers, roots, range, height = 240, brief = false, ...p }: Props) {
  const units = useUnits();
  const below = layers.at(-1)?.from_mm ?? 0;
  const deepest = p.deepest ?? Math.max(roots * 1.25, below + 40, range?.[1] ?? 0);
  const grass = 26;
  const room = height - grass - 8;
  const y = (mm: number) => grass + (mm / deepest) * room;
  const bands = [
    { from: 0, name: soils.find((s) => s.key === soil)?.name ?? "", colour: soilColour(soil), ledge: false },
    ...layers.map((layer) => ({
      from: layer.from_mm,
      name: layerName(layer, soils),
      colour: layer.lies === "ledge" ? "#8d8a80" : soilColour(layer.lies.soil),
      ledge: layer.lies === "ledge",
    })),
  ];
  const by = (units.system === "metric" ? 50 : 50.8) * (deepest > 450 ? 2 : 1);
  const marks = Array.from({ length: Math.floor(deepest / by) + 1 }, (_, i) => i * by);
  const end = Math.min(roots, layers.find((l) => l.lies === "ledge")?.from_mm ?? roots);
  const words = bands.map((b) => (b.from > 0 ? `${b.name} from ${units.show("root_depth", b.from)}` : b.name));
  return (
    <svg
      viewBox={`0 0 ${brief ? 112 : 230} ${height}`}
      className={classes.core}
      style={{ width: brief ? 112 : 230 }}
      role="img"
      aria-label={`Core: ${words.join(", ")}; roots ${units.show("root_depth", roots)} deep`}
    >
      {[52, 62, 72, 82, 92].map((x, i) => (
        <path key={x} d={`M${x} ${grass}q${i % 2 ? 3 : -3} -12 ${i % 2 ? -2 : 2} -22`} className={classes.blade} />
      ))}
      {bands.map((band, i) => {
        const to = bands[i + 1]?.from ?? deepest;
        return (
          <g key={band.from}>
            <rect x={44} y={y(band.from)} width={56} height={y(to) - y(band.from)} fill={band.colour} />
            {band.ledge && (
              <path
                d={`M44 ${y(band.from) + 8}l18 -8M58 ${y(band.from) + 10}l20 -8M78 ${y(band.from) + 9}l20 -8`}
                className={classes.blade}
                style={{ stroke: "var(--ink)" }}
              />
            )}
            {!brief && (
              <text x={116} y={y(band.from) + 14}>
                {band.name}
              </text>
            )}
          </g>
        );
      })}
      {[50, 60, 70, 80, 90].map((x, i) => (
        <path
          key={x}
          d={`M72 ${grass}Q${x} ${grass + 8} ${x + (i % 2 ? 2 : -2)} ${grass + (y(end) - grass) * (0.7 + 0.075 * i)}`}
          className={classes.root}
        />
      ))}
      {range && <path d={`M104 ${y(range[0])}V${y(range[1])}`} className={classes.range} />}
      <path d={`M40 ${y(roots)}H108`} className={classes.depth} />
      {!brief && (
        <text x={116} y={y(roots) + 4} fontWeight={700}>
          roots {units.show("root_depth", roots)}
        </text>
      )}
      {marks.map((mm) => (
        <g key={mm}>
          <path d={`M38 ${y(mm)}H44`} stroke="var(--ink)" />
          <text x={34} y={y(mm) + 4} textAnchor="end">
            {units.figure("root_depth", mm).replace(/\.0$/, "")}
          </text>
        </g>
      ))}
      <text x={2} y={12}>
        {units.label("root_depth")}
      </text>
      <rect x={44} y={grass} width={56} height={room} fill="none" stroke="var(--ink)" strokeWidth={1.4} />
    </svg>
  );
}
