// Rain above the line, reference ET below, on one scale for the week. Forecast rain is dashed: its mean amount, if it rains, and its probability.
import type { PlanDay } from "../../api";
import { useUnits } from "../../units";
import { LEAST_SHOWN_PCT } from "../reasons/words";

/** Bars taller than this are cut and marked, so that one storm does not flatten the week, mm. */
const TALLEST_MM = 15;

/** The common scale of a week's bars, mm. */
export const scaleOf = (days: PlanDay[]) =>
  Math.min(
    TALLEST_MM,
    Math.max(
      1,
      ...days.flatMap((d) => [
        d.rain_mm ?? 0,
        (d.rain_probability_pct ?? 0) >= LEAST_SHOWN_PCT ? (d.forecast_rain_mm ?? 0) : 0,
        d.et0_mm,
      ]),
    ),
  );

const WIDTH = 104;
const HALF = 24;

export function DayWeather({ day, most, past }: { day: PlanDay; most: number; past: boolean }) {
  const units = useUnits();
  const rain = day.rain_mm ?? day.forecast_rain_mm ?? 0;
  const forecast = day.rain_mm == null;
  // Nobody told of it: what the normals expect.
  const about = day.rain_expected ? "≈ " : "";
  const tall = (mm: number) => Math.max(mm > 0 ? 1.5 : 0, (Math.min(mm, most) / most) * (HALF - 3));
  const probability = Math.round(day.rain_probability_pct ?? 0);
  const likely = !forecast || (rain > 0 && probability >= LEAST_SHOWN_PCT);
  const rainText = likely
    ? `${about}${units.figure("depth", rain)}${forecast ? ` · ${probability} %` : ""}`
    : forecast && day.forecast_rain_mm != null
      ? "dry"
      : "";
  const et = units.figure("depth", day.et0_mm);
  const said = forecast
    ? `Forecast: ${probability} % chance of ${units.show("depth", rain)} of rain; reference ET ${units.show("depth", day.et0_mm)}`
    : `Rain ${about && "by the normals "}${units.show("depth", rain)}; reference ET ${units.show("depth", day.et0_mm)}`;
  return (
    <svg width={WIDTH} height={HALF * 2} viewBox={`0 0 ${WIDTH} ${HALF * 2}`} role="img" aria-label={said}>
      <rect
        x="2"
        y={HALF - tall(likely ? rain : 0)}
        width="16"
        height={tall(likely ? rain : 0)}
        fill={forecast || about ? "none" : "var(--water)"}
        stroke="var(--water)"
        strokeDasharray={forecast ? "2 2" : undefined}
      />
      {likely && rain > most && (
        // A gap in the bar, below its top: it goes on.
        <path d="M0 12l5 -3l5 3l5 -3l5 3" fill="none" stroke="var(--ground)" strokeWidth="2.5" />
      )}
      <text x="24" y={HALF - 5} fontSize="12.5" fill="var(--water)">
        {rainText}
      </text>
      <path d={`M0 ${HALF}H${WIDTH}`} stroke="var(--ink)" strokeWidth="1" />
      <rect x="2" y={HALF} width="16" height={tall(day.et0_mm)} fill="var(--et)" opacity={past ? 1 : 0.55} />
      <text x="24" y={HALF + 15} fontSize="12.5" fill="var(--straw)">
        {et}
      </text>
    </svg>
  );
}
