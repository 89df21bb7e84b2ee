// Harm by volume of a week, with the volume that is asked about.
import "@mantine/charts/styles.css";
import { AreaChart } from "@mantine/charts";
import { useUnits } from "../../units";
import { Figure, useDrawn } from "../book/Figure";
import type { Scarcity } from "./queries";

export function HarmCurve({ scarcity }: { scarcity: Scarcity }) {
  const units = useUnits();
  const volume = useDrawn("volume");
  const label = units.label("volume");
  const { curve, volume_l } = scarcity;
  const data = curve.map((p) => ({ volume: volume(p.volume_l), Harm: Math.round(10 * p.harm_pct) / 10 }));
  const most = Math.max(volume(volume_l), ...data.map((p) => p.volume));
  // A round end of the scale.
  const step = 10 ** Math.floor(Math.log10(Math.max(most, 1))) / 2;
  const top = Math.ceil(most / step) * step;
  return (
    <Figure
      title="What less water costs"
      note={`Harm in % of that without any water, by the week’s volume in ${label}; the line is the volume shared out.`}
      head={[`Volume, ${label}`, "Harm, %"]}
      rows={curve.map((p) => [units.figure("volume", p.volume_l), p.harm_pct.toFixed(1)])}
    >
      <AreaChart
        h={260}
        data={data}
        dataKey="volume"
        unit=" %"
        series={[{ name: "Harm", color: "var(--et)" }]}
        curveType="linear"
        withDots={false}
        withGradient={false}
        fillOpacity={0.15}
        tickLine="xy"
        areaChartProps={{ accessibilityLayer: false }}
        xAxisProps={{ type: "number", domain: [0, top], unit: ` ${label}`, tickCount: 6 }}
        yAxisProps={{ domain: [0, 100] }}
        referenceLines={[{ x: volume(volume_l), color: "var(--ink)" }]}
      />
    </Figure>
  );
}
