// The zone from above: heads, cans with what they caught, and the depths between them. Drier is straw, wetter is blue; figures say it too.
import { useUnits } from "../../units";
import type { CanTest, TestResult } from "./queries";

const DRY = [233, 205, 150];
const EVEN = [226, 230, 210];
const WET = [140, 178, 190];

/** Straw below the mean, pale at it, blue above. */
function colour(share: number): string {
  const t = Math.max(-1, Math.min(1, (share - 1) / 0.5));
  const to = t < 0 ? DRY : WET;
  const mix = EVEN.map((e, i) => Math.round(e + ((to[i] ?? e) - e) * Math.abs(t)));
  return `rgb(${mix.join(",")})`;
}

type Props = {
  test: CanTest;
  result: TestResult | null | undefined;
  label: string;
  current?: number;
  onPick?: (can: number) => void;
  /** Greatest height. */
  tall?: string;
};

export function PlanDrawing({ test, result, label, current, onPick, tall = "44vh" }: Props) {
  const units = useUnits();
  const xs = test.corners.map((p) => p.x_m);
  const ys = test.corners.map((p) => p.y_m);
  const [left, right, bottom, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const size = Math.max(right - left, top - bottom);
  // Drawn in hundredths of the longer side; north is up.
  const sx = (x: number) => (100 * (x - left)) / size;
  const sy = (y: number) => (100 * (top - y)) / size;
  const pad = 4;
  const grid = result?.grid;
  const shown = (reading: number | null | undefined) =>
    reading == null
      ? ""
      : test.container.kind === "volume"
        ? String(Math.round(reading))
        : units.figure("depth", reading);
  const radius = Math.min(5.2, 42 / Math.sqrt(test.cans.length));
  return (
    <svg
      viewBox={`${-pad} ${-pad} ${sx(right) + 2 * pad} ${sy(bottom) + 2 * pad}`}
      width="100%"
      role="img"
      aria-label={label}
      style={{ display: "block", maxHeight: tall }}
    >
      {grid?.shares.map((share, i) => {
        const column = i % grid.columns;
        const row = Math.floor(i / grid.columns);
        const cell = (100 * grid.cell_m) / size;
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place in the grid
            key={i}
            x={sx(grid.left_m) + column * cell}
            y={sy(grid.bottom_m) - (row + 1) * cell}
            width={cell + 0.05}
            height={cell + 0.05}
            fill={colour(share)}
            shapeRendering="crispEdges"
          />
        );
      })}
      <polygon
        points={test.corners.map((p) => `${sx(p.x_m)},${sy(p.y_m)}`).join(" ")}
        fill="none"
        stroke="#23281f"
        strokeWidth="0.5"
      />
      {test.heads?.map((h) => (
        <path
          key={`${h.x_m} ${h.y_m}`}
          d={`M${sx(h.x_m)} ${sy(h.y_m) - 2}l2 3.4h-4z`}
          fill="#23281f"
          stroke="#fbfaf4"
          strokeWidth="0.4"
        />
      ))}
      {test.cans.map((can) => {
        const here = can.number === current;
        const text = can.fate === "read" ? shown(can.reading) : can.fate === "unread" ? String(can.number) : "✕";
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: every can is also in the list below for keyboards and readers
          <g key={can.number} onClick={() => onPick?.(can.number)} style={onPick ? { cursor: "pointer" } : undefined}>
            <circle
              cx={sx(can.place.x_m)}
              cy={sy(can.place.y_m)}
              r={radius}
              fill={here ? "#9a3412" : "#fffefa"}
              stroke="#23281f"
              strokeWidth="0.4"
              strokeDasharray={can.fate === "read" || here ? undefined : "1 0.8"}
            />
            <text
              x={sx(can.place.x_m)}
              y={sy(can.place.y_m) + radius * 0.32}
              textAnchor="middle"
              fontSize={radius * 0.92}
              fontWeight={can.fate === "read" || here ? 700 : 400}
              fill={here ? "#fffefa" : "#23281f"}
            >
              {here && can.fate === "unread" ? can.number : text}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
