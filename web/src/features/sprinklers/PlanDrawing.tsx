// The zone from above: heads, cans with what they caught, and lines of equal depth. Drier is straw and hatched, wetter is blue; figures
// say it too.
import { memo, useId } from "react";
import { type Units, useUnits } from "../../units";
import { readsDepth } from "./draft";
import type { CanTest, TestResult } from "./queries";

const INK = "#23281f";
const PAPER = "#fffefa";
/** What lies below the first line, between the lines, and above the last: straw, pale where it is even, blue. */
const BANDS = ["#dcb871", "#e8cf9c", "#efe3c2", "#e9ecdc", "#cfdfdc", "#abc9cf", "#86b0bd"];
/** Below this share of the mean it is hatched as well. */
const HATCHED_BELOW = 0.75;

type Props = {
  test: Pick<CanTest, "corners" | "heads" | "cans" | "container" | "idle_heads">;
  result?: TestResult | null | undefined;
  label: string;
  /** The can to be read. */
  current?: number;
  /** A place was tapped, m. */
  onTap?: (x_m: number, y_m: number) => void;
  /** Greatest height. */
  tall?: string;
  /** Whether heads show their numbers. */
  numbered?: boolean;
};

function shown(test: Props["test"], reading: number | null | undefined, units: Units) {
  if (reading == null) return "";
  return readsDepth(test as CanTest) ? units.figure("depth", reading) : String(Math.round(reading));
}

export const PlanDrawing = memo(function PlanDrawing({
  test,
  result,
  label,
  current,
  onTap,
  tall = "44vh",
  numbered = false,
}: Props) {
  const units = useUnits();
  const id = useId();
  const xs = test.corners.map((p) => p.x_m);
  const ys = test.corners.map((p) => p.y_m);
  const [left, right, bottom, top] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const size = Math.max(right - left, top - bottom);
  // Drawn in hundredths of the longer side; up on the plan is up here.
  const sx = (x: number) => Math.round((10000 * (x - left)) / size) / 100;
  const sy = (y: number) => Math.round((10000 * (top - y)) / size) / 100;
  const pad = 6;
  const path = (points: { x_m: number; y_m: number }[]) =>
    points.length === 0 ? "" : `M${points.map((p) => `${sx(p.x_m)} ${sy(p.y_m)}`).join("L")}Z`;
  const outline = path(test.corners);
  const contours = result?.contours ?? [];
  const mean = result?.mean_mm;
  const radius = Math.min(5.2, 42 / Math.sqrt(Math.max(1, test.cans.length)));
  const tapped = (event: React.MouseEvent<SVGSVGElement>) => {
    const matrix = event.currentTarget.getScreenCTM();
    if (!onTap || !matrix) return;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
    onTap(left + (at.x * size) / 100, top - (at.y * size) / 100);
  };
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: what a tap does is offered by fields and lists beside the plan
    <svg
      viewBox={`${-pad} ${-pad} ${sx(right) + 2 * pad} ${sy(bottom) + 2 * pad}`}
      width="100%"
      role="img"
      aria-label={label}
      style={{
        display: "block",
        maxHeight: tall,
        background: "#fbfaf4",
        borderRadius: 4,
        ...(onTap ? { cursor: "pointer", touchAction: "manipulation" } : {}),
      }}
      onClick={tapped}
    >
      <clipPath id={`${id}-zone`}>
        <path d={outline} />
      </clipPath>
      <pattern id={`${id}-dry`} width="2.4" height="2.4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="2.4" stroke="#8a6420" strokeWidth="0.5" />
      </pattern>
      <path d={outline} fill={contours.length > 0 ? BANDS[0] : "#f3f2e6"} />
      {contours.length > 0 && (
        <g clipPath={`url(#${id}-zone)`}>
          <path d={outline} fill={`url(#${id}-dry)`} />
          {contours.map((c, i) => {
            const rings = c.rings.map(path).join("");
            return (
              <g key={c.share}>
                <path d={rings} fill={BANDS[i + 1]} fillRule="evenodd" stroke={INK} strokeWidth="0.25" />
                {c.share < HATCHED_BELOW && <path d={rings} fill={`url(#${id}-dry)`} fillRule="evenodd" />}
              </g>
            );
          })}
        </g>
      )}
      <path d={outline} fill="none" stroke={INK} strokeWidth="0.5" />
      {mean != null &&
        contours.map(
          (c) =>
            c.label && (
              <text
                key={c.share}
                x={sx(c.label.x_m)}
                y={sy(c.label.y_m) + 1}
                textAnchor="middle"
                fontSize="3.6"
                fontWeight="600"
                fill={INK}
                stroke={PAPER}
                strokeWidth="0.9"
                paintOrder="stroke"
              >
                {units.figure("depth", c.share * mean)}
              </text>
            ),
        )}
      {test.heads?.map((h, i) => {
        const idle = test.idle_heads?.includes(i + 1);
        return (
          <g key={`${h.x_m} ${h.y_m}`}>
            <path
              d={`M${sx(h.x_m)} ${sy(h.y_m) - 2.4}l2.4 4h-4.8z`}
              fill={idle ? PAPER : INK}
              stroke={idle ? INK : PAPER}
              strokeWidth="0.5"
            />
            {numbered && (
              <text
                x={sx(h.x_m)}
                y={sy(h.y_m) + 5}
                textAnchor="middle"
                fontSize="3.2"
                fontWeight="700"
                fill={INK}
                stroke={PAPER}
                strokeWidth="0.8"
                paintOrder="stroke"
              >
                {i + 1}
              </text>
            )}
          </g>
        );
      })}
      {test.cans.map((can) => {
        const here = can.number === current;
        const read = can.fate === "read";
        const text = read ? shown(test, can.reading, units) : can.fate === "unread" ? String(can.number) : "✕";
        return (
          <g key={can.number}>
            <circle
              cx={sx(can.place.x_m)}
              cy={sy(can.place.y_m)}
              r={here ? radius * 1.15 : radius}
              fill={here ? INK : PAPER}
              stroke={INK}
              strokeWidth="0.4"
              strokeDasharray={read || here ? undefined : "1 0.8"}
            />
            <text
              x={sx(can.place.x_m)}
              y={sy(can.place.y_m) + radius * 0.32}
              textAnchor="middle"
              fontSize={radius * 0.92}
              fontWeight={read || here ? 700 : 400}
              fill={here ? PAPER : INK}
            >
              {text}
            </text>
          </g>
        );
      })}
    </svg>
  );
});
