import { useState } from "react";
import type { WeekPlan } from "../../api";
import { clock, dayMonth, longDay } from "../../time";
import { useUnits } from "../../units";
import { PlanGate } from "../morning/PlanGate";
import { Working } from "../reasons/Working";
import { sentence } from "../reasons/words";
import { type Position, WeekGrid } from "./WeekGrid";
import classes from "./WeekPage.module.css";

export function WeekPage() {
  return (
    <PlanGate what="the week">
      {({ plan, madeAt, view }) => {
        const price = view.site.price_per_m3;
        const cost = price == null ? undefined : { price, currency: view.site.currency ?? "" };
        return <Week plan={plan} madeAt={madeAt} cost={cost} />;
      }}
    </PlanGate>
  );
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
