// Zones that take more than the supply gives: nothing waters them, whatever the hours are.
import type { WeekPlan } from "../../api";

/** They, with what they take and what there is. */
export const unfed = (plan: WeekPlan) =>
  plan.zones.flatMap(({ zone, name, cells }) => {
    const verdict = cells.find((c) => c.date >= plan.today)?.verdict;
    return verdict?.verdict === "flow_above_supply" ? [{ zone, name, verdict }] : [];
  });
