// A ring's readings as water gone in over time, and the law through them.
import type { Schemas } from "../../api";
import { useUnits } from "../../units";
import classes from "./Soil.module.css";

const WIDE = 340;
const HIGH = 200;
const LEFT = 44;
const BOTTOM = 34;

/** A round step that divides a span into some four parts. */
function step(span: number): number {
  const rough = span / 4;
  const ten = 10 ** Math.floor(Math.log10(rough));
  return [1, 2, 5, 10].map((n) => n * ten).find((s) => s >= rough) ?? rough;
}

const steps = (span: number) => {
  const by = step(span);
  return Array.from({ length: Math.floor(span / by) + 1 }, (_, i) => i * by);
};

export function Curve({ rings }: { rings: Schemas["RingResult"][] }) {
  const units = useUnits();
  const all = rings.flatMap((r) => [...r.points, ...(r.fitted?.curve ?? [])]);
  const minutes = Math.max(1, ...all.map((p) => p.minutes));
  // In the reader's unit, so that the steps of the scale are round there.
  const shown = (mm: number) => Number(units.toField("depth", mm));
  const depth = Math.max(shown(1), ...all.map((p) => shown(p.entered_mm)));
  const x = (m: number) => LEFT + (m / minutes) * (WIDE - LEFT - 14);
  const y = (mm: number) => HIGH - BOTTOM - (shown(mm) / depth) * (HIGH - BOTTOM - 14);
  const yShown = (d: number) => HIGH - BOTTOM - (d / depth) * (HIGH - BOTTOM - 14);
  const fitted = rings.map((r) => r.fitted).filter((f) => f != null);
  return (
    <figure className={classes.figure}>
      <svg viewBox={`0 0 ${WIDE} ${HIGH}`} className={classes.curve} role="img" aria-label="Water gone in over time">
        {steps(minutes).map((m) => (
          <g key={`x${m}`}>
            <path d={`M${x(m)} ${HIGH - BOTTOM}V10`} className={classes.grid} />
            <text x={x(m)} y={HIGH - BOTTOM + 14} textAnchor="middle">
              {m}
            </text>
          </g>
        ))}
        {steps(depth).map((d) => (
          <g key={`y${d}`}>
            <path d={`M${LEFT} ${yShown(d)}H${WIDE - 10}`} className={classes.grid} />
            <text x={LEFT - 6} y={yShown(d) + 4} textAnchor="end">
              {Number(d.toPrecision(3))}
            </text>
          </g>
        ))}
        <text x={WIDE - 12} y={HIGH - 4} textAnchor="end">
          minutes
        </text>
        <text x={2} y={HIGH - 4}>
          gone in, {units.label("depth")}
        </text>
        {rings.map((ring, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rings keep their order
          <g key={i}>
            {ring.fitted && (
              <path
                d={`M${ring.fitted.curve.map((p) => `${x(p.minutes)} ${y(p.entered_mm)}`).join("L")}`}
                className={classes.law}
              />
            )}
            {ring.points.map((p) => (
              <circle key={p.minutes} cx={x(p.minutes)} cy={y(p.entered_mm)} r={3.2} className={classes.point} />
            ))}
          </g>
        ))}
      </svg>
      {fitted.map((f) => (
        <figcaption key={f.steady_mm_h} className="quiet">
          {f.law === "horton" ? "Horton’s" : "Philip’s"} law misses the readings by {units.show("depth", f.rms_mm)}; in
          the end {units.show("rate", f.steady_mm_h)}
          {f.error_mm_h != null && `, give or take ${units.show("rate", f.error_mm_h)}`}.
        </figcaption>
      ))}
    </figure>
  );
}
