// How much is used of the volumes that rules do not let pass.
import type { WeekPlan } from "../../api";
import { whenDay } from "../../time";
import { useUnits } from "../../units";

export function Volumes({ plan }: { plan: WeekPlan }) {
  const units = useUnits();
  return plan.volumes.map((v) => (
    <p key={v.rule}>
      “{v.rule}”: {units.show("volume", v.used_l)} of {units.show("volume", v.most_l)} used,{" "}
      {units.show("volume", v.planned_l)} planned until{" "}
      {v.until === plan.today ? "tonight" : whenDay(v.until, plan.today)}
    </p>
  ));
}
