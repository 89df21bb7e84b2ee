// Waterings by hand of new grass are reminded of by the browser's notification, where it is allowed and while a page of them is open.
import { Button } from "@mantine/core";
import { useEffect, useState } from "react";
import type { SiteView, WeekPlan, ZonePlan } from "../../api";
import { clock } from "../../time";
import { runsOf, runWords } from "../reasons/run";

/** Slots of which this page has reminded. */
const told = new Set<string>();

/** Longest wait that a timer of the browser can hold, ms. */
const LONGEST_MS = 2 ** 31 - 1;

type Slot = { zone: ZonePlan; run: ReturnType<typeof runsOf>[number] };

/** The waterings by hand of today, in time order. */
const slotsOf = (plan: WeekPlan): Slot[] =>
  plan.zones
    .filter((zone) => zone.new_grass && zone.by_hand)
    .flatMap((zone) =>
      zone.cells
        .filter((cell) => cell.date === plan.today)
        .flatMap((cell) => runsOf(cell).map((run) => ({ zone, run }))),
    )
    .sort((a, b) => Date.parse(a.run.window.opens) - Date.parse(b.run.window.opens));

export function Reminders({ plan, view }: { plan: WeekPlan; view: SiteView }) {
  const [permission, setPermission] = useState(() =>
    "Notification" in window ? Notification.permission : ("denied" as const),
  );
  const [, tick] = useState(0);
  const slots = slotsOf(plan);
  useEffect(() => {
    if (permission !== "granted") return;
    // A clock that is stepped stands still between two steps.
    const now = view.simulated_clock ? Date.parse(view.now) : Date.now();
    for (const { zone, run } of slots) {
      const key = `${zone.zone} ${run.window.opens}`;
      const open = Date.parse(run.window.opens) <= now && now < Date.parse(run.window.closes);
      if (!open || told.has(key)) continue;
      told.add(key);
      new Notification(`${zone.name}: water it now`, {
        body: `${runWords(run)}, until ${clock(run.window.closes, plan.time_zone)}. Its top dries out otherwise.`,
        tag: key,
      });
    }
    const next = slots.map(({ run }) => Date.parse(run.window.opens)).find((opens) => opens > now);
    if (view.simulated_clock || next === undefined) return;
    const timer = setTimeout(() => tick((n) => n + 1), Math.min(next - now + 1000, LONGEST_MS));
    return () => clearTimeout(timer);
  });
  if (slots.length === 0 || permission === "denied") return null;
  if (permission === "granted") {
    return <p className="quiet">This device reminds of each watering while this page is open.</p>;
  }
  const ask = async () => setPermission(await Notification.requestPermission());
  return (
    <Button size="sm" variant="subtle" onClick={() => void ask()}>
      Remind me on this device
    </Button>
  );
}
