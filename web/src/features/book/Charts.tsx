// The book's charts, each with its figures as a table.
import "@mantine/charts/styles.css";
import { BarChart } from "@mantine/charts";
import { amount } from "../../money";
import { dayMonth, monthName } from "../../time";
import { useUnits } from "../../units";
import { AXES, Figure, IN_ORDER, useDrawn } from "./Figure";
import type { Book } from "./queries";

type Props = { book: Book; currency: string | null | undefined };

/** What came on one bar, what was needed on the next. */
const SERIES = [
  { name: "Irrigation", color: "var(--water)", stackId: "came" },
  { name: "Rain", color: "var(--edge)", stackId: "came" },
  { name: "Needed by the turf", color: "var(--et)", stackId: "needed" },
];

/** `Jun 26`. */
const monthOf = (date: string) => `${monthName(date).slice(0, 3)} ${date.slice(2, 4)}`;

function WaterByWeek({ book }: Props) {
  const units = useUnits();
  const depth = useDrawn("depth");
  const label = units.label("depth");
  const weeks = book.weeks.map((w) => ({
    week: dayMonth(w.from),
    given: w.sums.net_mm,
    rain: w.sums.effective_rain_mm,
    needed: w.sums.etc_mm,
  }));
  const data = weeks.map((w) => ({
    week: w.week,
    Irrigation: depth(w.given),
    Rain: depth(w.rain),
    "Needed by the turf": depth(w.needed),
  }));
  return (
    <Figure
      title="What came and what the turf needed"
      note={`By week from Monday on, ${label} over the whole lawn: irrigation and rain that entered the soil, against the ET of a turf that lacks nothing.`}
      head={["Week from", `Irrigation, ${label}`, `Rain, ${label}`, `Needed, ${label}`]}
      rows={weeks.map((w) => [
        w.week,
        units.figure("depth", w.given),
        units.figure("depth", w.rain),
        units.figure("depth", w.needed),
      ])}
    >
      <BarChart
        {...AXES}
        data={data}
        dataKey="week"
        unit={` ${label}`}
        withLegend
        legendProps={IN_ORDER}
        maxBarWidth={16}
        yAxisProps={{ width: 64 }}
        xAxisProps={{ interval: "preserveStartEnd", minTickGap: 14 }}
        series={SERIES}
      />
    </Figure>
  );
}

function ByMonth({ book, currency }: Props) {
  const units = useUnits();
  const volume = useDrawn("volume");
  const label = units.label("volume");
  const priced = book.total.cost != null;
  const months = book.months.map((m) => ({
    name: monthOf(m.from),
    planned: m.sums.planned_l,
    run: m.sums.run_l,
    cost: m.sums.cost,
  }));
  const money = (value: number) => amount(value, currency);
  return (
    <Figure
      title={priced ? "What a month took and cost" : "What a month took"}
      note={
        priced
          ? "The water that ran, priced where the month’s use stood by then; without the month’s fee."
          : "The water that ran. Say what it costs, and this shows it."
      }
      head={["Month", `Planned, ${label}`, `Ran, ${label}`, ...(priced ? ["Cost"] : [])]}
      rows={months.map((m) => [
        m.name,
        units.figure("volume", m.planned),
        units.figure("volume", m.run),
        ...(priced ? [money(m.cost ?? 0)] : []),
      ])}
    >
      <BarChart
        {...AXES}
        data={months.map((m) =>
          priced ? { month: m.name, Cost: m.cost ?? 0 } : { month: m.name, Ran: volume(m.run) },
        )}
        dataKey="month"
        withBarValueLabel={months.length < 9}
        valueFormatter={(value) => (priced ? money(value) : `${Math.round(value)} ${label}`)}
        maxBarWidth={40}
        yAxisProps={{ width: 72 }}
        series={[{ name: priced ? "Cost" : "Ran", color: "var(--straw)" }]}
      />
    </Figure>
  );
}

/** What ran beside what California's rule would allow, and the other budgets in words. */
function AgainstBudget({ book }: Props) {
  const units = useUnits();
  const volume = useDrawn("volume");
  const label = units.label("volume");
  const { budgets } = book;
  const months = book.months.map((m) => ({ name: monthOf(m.from), run: m.sums.run_l, allowed: m.mawa_l }));
  const peak =
    budgets.watersense_allowance_l == null || budgets.peak_month == null
      ? "No whole month lies in these days, so WaterSense’s allowance of the peak month is not told."
      : `WaterSense allows ${units.show("volume", budgets.watersense_allowance_l)} in the peak month, ${monthOf(budgets.peak_month)}.`;
  return (
    <Figure
      title="Used against budget"
      note={`${label} by month: what ran, and California’s maximum applied water allowance by the month’s own ET. ${peak} California’s formula estimates that this planting uses ${units.show("volume", budgets.etwu_l)} in these days. Local rules decide what is allowed.`}
      head={["Month", `Ran, ${label}`, `Allowed, ${label}`]}
      rows={months.map((m) => [m.name, units.figure("volume", m.run), units.figure("volume", m.allowed)])}
    >
      <BarChart
        {...AXES}
        data={months.map((m) => ({
          month: m.name,
          Ran: volume(m.run),
          "Allowed by California’s rule": volume(m.allowed),
        }))}
        dataKey="month"
        valueFormatter={(value) => `${Math.round(value)} ${label}`}
        withLegend
        legendProps={IN_ORDER}
        maxBarWidth={26}
        yAxisProps={{ width: 76 }}
        series={[
          { name: "Ran", color: "var(--water)" },
          { name: "Allowed by California’s rule", color: "var(--straw)" },
        ]}
      />
    </Figure>
  );
}

function ByZone({ book }: Props) {
  const units = useUnits();
  const depth = useDrawn("depth");
  const label = units.label("depth");
  const zones = book.zones.filter((z) => z.sums.etc_mm > 0);
  return (
    <Figure
      title="Depth of each zone"
      note={`${label} over its own area: what entered the soil, and what its turf needed.`}
      head={["Zone", `Irrigation, ${label}`, `Rain, ${label}`, `Needed, ${label}`]}
      rows={zones.map((z) => [
        z.name,
        units.figure("depth", z.sums.net_mm),
        units.figure("depth", z.sums.effective_rain_mm),
        units.figure("depth", z.sums.etc_mm),
      ])}
    >
      <BarChart
        {...AXES}
        h={Math.max(160, 46 * zones.length + 60)}
        data={zones.map((z) => ({
          zone: z.name,
          Irrigation: depth(z.sums.net_mm),
          Rain: depth(z.sums.effective_rain_mm),
          "Needed by the turf": depth(z.sums.etc_mm),
        }))}
        dataKey="zone"
        orientation="vertical"
        withLegend
        legendProps={IN_ORDER}
        yAxisProps={{ width: 116 }}
        gridAxis="x"
        series={SERIES}
      />
    </Figure>
  );
}

/** Those along the time, or those by zone. */
export default function Charts({ which, ...of }: Props & { which: "time" | "zones" }) {
  if (which === "zones") {
    return (
      <>
        <ByZone {...of} />
        <AgainstBudget {...of} />
      </>
    );
  }
  return (
    <>
      <WaterByWeek {...of} />
      <ByMonth {...of} />
    </>
  );
}
