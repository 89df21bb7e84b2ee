import { Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { WeekPlan } from "../../api";
import { clock, dayMonth, longDay } from "../../time";
import { useUnits } from "../../units";
import { NoPlan } from "../morning/MorningPage";
import { planQuery } from "../morning/queries";
import { Working } from "../reasons/Working";
import { sentence } from "../reasons/words";
import { Empty, Failed, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import { type Position, WeekGrid } from "./WeekGrid";
import classes from "./WeekPage.module.css";

export function WeekPage() {
  const { site } = useParams({ from: "/site/$site" });
  const plan = useQuery(planQuery(site));
  const view = useQuery(siteQuery(site));
  if (plan.isPending || view.isPending) return <Loading what="the week" />;
  const failed = plan.error ?? view.error;
  if (failed || !plan.data || !view.data) {
    return <Failed message={failed?.message ?? ""} retry={() => Promise.all([plan.refetch(), view.refetch()])} />;
  }
  const current = plan.data.current;
  if (!current)
    return (
      <main>
        <NoPlan site={site} />
      </main>
    );
  if (current.plan.zones.length === 0) {
    return (
      <main>
        <Empty title="No zones yet">
          <Text>Add a zone on Site, and its week stands here.</Text>
        </Empty>
      </main>
    );
  }
  const price = view.data.site.price_per_m3;
  const cost = price == null ? undefined : { price, currency: view.data.site.currency ?? "" };
  return <Week plan={current.plan} madeAt={current.made_at} cost={cost} />;
}

type Cost = { price: number; currency: string };

function Week({ plan, madeAt, cost }: { plan: WeekPlan; madeAt: string; cost?: Cost }) {
  const units = useUnits();
  const today = plan.days.findIndex((d) => d.date === plan.today);
  const [at, setAt] = useState<Position>({ zone: 0, day: today });
  const [open, setOpen] = useState(false);
  const zone = plan.zones[at.zone];
  const cell = zone?.cells[at.day];
  return (
    <main className={classes.page}>
      <div className={classes.top}>
        <h1>Week of {dayMonth(plan.days[0]?.date ?? plan.today)}</h1>
        <span className="quiet">
          planned {longDay(plan.today)} at {clock(madeAt, plan.time_zone)}
        </span>
        <span className={classes.totals}>
          From today: <strong>{units.show("volume", plan.totals.volume_l)}</strong>
          {" · "}
          {Math.round(plan.totals.run_s / 60)} min{" · "}
          {units.show("depth", plan.totals.gross_mm)} over all the lawn
          {cost && ` · ${money(plan.totals.volume_l, cost)}`}
        </span>
      </div>
      <WeekGrid plan={plan} at={at} onMove={setAt} onOpen={() => setOpen(true)} />
      {zone && cell && (
        <>
          <p className={classes.strip} aria-live="polite">
            <strong>
              {zone.name}, {longDay(cell.date)}:
            </strong>{" "}
            {cell.state === "absent" ? "The zone is not there on this day." : sentence(cell, plan.today, units)}{" "}
            <span className="quiet">Arrow keys move, Enter or W opens the working.</span>
          </p>
          <Working zone={zone} cell={cell} today={plan.today} opened={open} onClose={() => setOpen(false)} />
        </>
      )}
    </main>
  );
}

function money(litres: number, cost: Cost): string {
  const amount = (litres / 1000) * cost.price;
  return cost.currency
    ? new Intl.NumberFormat("en", { style: "currency", currency: cost.currency }).format(amount)
    : amount.toFixed(2);
}
