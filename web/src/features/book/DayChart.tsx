// What ran beside what the meter counted, day by day.
import "@mantine/charts/styles.css";
import { BarChart } from "@mantine/charts";
import { shortDay } from "../../time";
import { useUnits } from "../../units";
import { AXES, Figure, IN_ORDER, useDrawn } from "./Figure";
import type { ReconciledDay } from "./queries";

const COUNTED = "Counted while something ran";
const NOBODY = "Counted with nothing on";
const RAN = "Ran by rate and time";

export default function DayChart({ days }: { days: ReconciledDay[] }) {
  const units = useUnits();
  const volume = useDrawn("volume");
  const label = units.label("volume");
  const metered = days.some((d) => d.metered != null);
  const counted = (litres: number | undefined) => (litres === undefined ? "not heard" : units.figure("volume", litres));
  return (
    <Figure
      title={metered ? "What ran and what flowed" : "What ran"}
      note={
        metered
          ? `${label} a day. Where the two bars are not equally high, something else took the water, or a rate is wrong.`
          : `${label} a day.`
      }
      head={["Day", `${RAN}, ${label}`, ...(metered ? [`${COUNTED}, ${label}`, `${NOBODY}, ${label}`] : [])]}
      rows={days.map((d) => [
        shortDay(d.date),
        units.figure("volume", d.run_l),
        ...(metered ? [counted(d.metered?.runs_l), counted(d.metered?.nobody_l)] : []),
      ])}
    >
      <BarChart
        {...AXES}
        data={days.map((d) => ({
          day: String(Number(d.date.slice(8))),
          [RAN]: volume(d.run_l),
          ...(metered ? { [COUNTED]: volume(d.metered?.runs_l ?? 0), [NOBODY]: volume(d.metered?.nobody_l ?? 0) } : {}),
        }))}
        dataKey="day"
        unit={` ${label}`}
        withLegend={metered}
        legendProps={IN_ORDER}
        maxBarWidth={14}
        yAxisProps={{ width: 64 }}
        xAxisProps={{ interval: "preserveStartEnd", minTickGap: 8 }}
        series={[
          { name: RAN, color: "var(--edge)", stackId: "ran" },
          ...(metered
            ? [
                { name: COUNTED, color: "var(--water)", stackId: "metered" },
                { name: NOBODY, color: "var(--clay)", stackId: "metered" },
              ]
            : []),
        ]}
      />
    </Figure>
  );
}
