// A night on the clock: its zones against the allowed hours, how full it is, who gives way, and what would make it fit.
import { Modal } from "@mantine/core";
import type { WeekPlan } from "../../api";
import { clock, longDay, minutes, weekday } from "../../time";
import { useUnits } from "../../units";
import { NightLines } from "../morning/ClockLine";
import { runsOf } from "../reasons/run";
import { find, staysDry } from "../reasons/words";
import classes from "./Night.module.css";

type Props = { plan: WeekPlan; date: string; together: boolean; opened: boolean; onClose: () => void };

export function Night({ plan, date, together, opened, onClose }: Props) {
  const day = plan.days.find((d) => d.date === date);
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      size="xl"
      title={`${longDay(date)} on the clock`}
      closeButtonProps={{ "aria-label": "Close the night" }}
    >
      {day && <Content plan={plan} day={day} together={together} />}
    </Modal>
  );
}

const seconds = (from: string, to: string) => (new Date(to).getTime() - new Date(from).getTime()) / 1000;

/** Windows that touch are shown as one: they are cut where what is asked of a zone changes. */
function spans(windows: WeekPlan["days"][number]["windows"]) {
  const joined: typeof windows = [];
  for (const window of windows) {
    const last = joined.at(-1);
    if (last?.closes === window.opens) joined[joined.length - 1] = { ...last, closes: window.closes };
    else joined.push(window);
  }
  return joined;
}

function remedyWords({ zone, remedy }: WeekPlan["remedies"][number], plan: WeekPlan): string {
  const name = plan.zones.find((z) => z.zone === zone)?.name ?? zone;
  return remedy.by === "evenness"
    ? `${name} as even as good sprinklers of its kind (${remedy.to.toFixed(2)} instead of ${remedy.from.toFixed(2)})`
    : `${name} without a rest between passes: open the ground, or fit slower nozzles`;
}

function Content({ plan, day, together }: { plan: WeekPlan; day: WeekPlan["days"][number]; together: boolean }) {
  const units = useUnits();
  const depth = (mm: number) => units.show("depth", mm);
  const cells = plan.zones.flatMap((zone) => {
    const cell = zone.cells.find((c) => c.date === day.date);
    return cell ? [{ zone, cell }] : [];
  });
  const onClock = cells.flatMap(({ zone, cell }) => (zone.by_hand ? [] : runsOf(cell)));
  const byHand = cells.filter(({ zone, cell }) => zone.by_hand && cell.run);
  const used = onClock.reduce((sum, run) => sum + run.run_s, 0);
  const open = day.windows.reduce((sum, w) => sum + seconds(w.opens, w.closes), 0);
  const least = Math.min(100, ...onClock.map((run) => run.chance_pct));
  const short = cells.flatMap(({ zone, cell }) => {
    const gives = find(cell.ledger, "gives_way");
    const none = find(cell.ledger, "no_room");
    if (gives)
      return [
        { name: zone.name, more_s: gives.more_s, words: `${depth(gives.gives_mm)} of ${depth(gives.wanted_mm)} fit` },
      ];
    if (none) return [{ name: zone.name, more_s: none.more_s, words: `${depth(none.short_mm)} short, no room at all` }];
    return [];
  });
  const more_s = Math.max(0, ...short.map((s) => s.more_s));
  const remedies = plan.remedies.filter((r) => r.date === day.date);
  const scarce = cells.flatMap(({ zone, cell }) => {
    const rationed = find(cell.ledger, "rationed");
    return rationed && !rationed.rule ? [{ name: zone.name, rationed }] : [];
  });
  const nextOpen = plan.days.find((d) => d.date > day.date && d.windows.length === 0);
  if (day.windows.length === 0) return <p>No watering is allowed on this day.</p>;
  return (
    <div className={classes.night}>
      <p>
        Allowed{" "}
        {spans(day.windows)
          .map((w) => `${clock(w.opens, plan.time_zone)}–${clock(w.closes, plan.time_zone)}`)
          .join(", ")}
        ;{" "}
        {onClock.length === 0
          ? "nothing waters by the clock."
          : `water runs ${minutes(used)} of ${minutes(open)}${together ? ", several zones at a time" : ", one zone at a time"}.`}
        {onClock.length > 0 && staysDry(least) ? ` Some of it is ${staysDry(least)} % likely: rain may cancel it.` : ""}
      </p>
      <NightLines plan={plan} day={day} label={`${weekday(day.date)} hour by hour`} />
      {onClock.length > 0 && (
        <p className="quiet">Hatched: water runs. Dotted: it soaks in, and other zones run meanwhile.</p>
      )}
      {byHand.length > 0 && (
        <p>
          By hand, at any of these hours:{" "}
          {byHand.map(({ zone, cell }) => `${zone.name} ${minutes(cell.run?.run_s ?? 0)}`).join(", ")}.
        </p>
      )}
      {short.length > 0 && (
        <>
          <h3 className={classes.heading}>What does not fit</h3>
          <ul>
            {short.map((s) => (
              <li key={s.name}>
                {s.name}: {s.words}.
              </li>
            ))}
          </ul>
          <p>
            {more_s > 0
              ? `${minutes(Math.ceil(more_s / 60) * 60)} more this night would make it fit`
              : "Fewer soaks would make it fit"}
            {nextOpen ? `, or ${weekday(nextOpen.date)} as one more night` : ""}.
          </p>
          {remedies.length > 0 && (
            <>
              <p>What would shorten every such night:</p>
              <ul>
                {remedies.map((r) => (
                  <li key={r.remedy.by}>
                    {remedyWords(r, plan)}: {minutes(Math.round(r.saves_s / 60) * 60)} less.
                  </li>
                ))}
              </ul>
            </>
          )}
        </>
      )}
      {scarce.length > 0 && (
        <>
          <h3 className={classes.heading}>What the tank or well does not give</h3>
          <ul>
            {scarce.map(({ name, rationed }) => (
              <li key={name}>
                {name}: {depth(rationed.gives_mm)} of {depth(rationed.wanted_mm)}.
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}
