// New grass on Morning: its waterings by hand, the one that was missed, and one tap for what was done and what was seen.
import { Button, Group } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import type { Schemas, SiteView, WeekPlan, ZonePlan } from "../../api";
import { newKey } from "../../key";
import { counted } from "../../plural";
import { clock, minutes } from "../../time";
import { runsOf, runWords } from "../reasons/run";
import { STAGES } from "../reasons/words";
import { useAddRun } from "../runs/queries";
import { useRights } from "../session/rights";
import { useNoteGrown, useNoteTug } from "./queries";
import { Reminders } from "./Reminders";
import { isTurf, NEXT_SEEN, STILL_ALIVE } from "./words";

type Props = { plan: WeekPlan; site: string; view: SiteView };

export function NewGrassToday(props: Props) {
  const { record } = useRights(props.site);
  const zones = props.plan.zones.filter((zone) => zone.new_grass);
  return (
    <>
      {zones.map((zone) => (
        <Zone key={zone.zone} {...props} zone={zone} />
      ))}
      {record && zones.length > 0 && (
        <li>
          <Reminders plan={props.plan} view={props.view} />
        </li>
      )}
    </>
  );
}

function Zone({ plan, site, view, zone }: Props & { zone: ZonePlan }) {
  const { record } = useRights(site);
  const now = zone.new_grass;
  const cell = zone.cells.find((c) => c.date === plan.today);
  if (!now || !cell) return null;
  const seen = NEXT_SEEN[now.stage];
  const alive = now.is_in_doubt ? STILL_ALIVE[now.stage] : undefined;
  return (
    <li>
      <strong>
        {zone.name}, {STAGES[now.stage]}
      </strong>
      <Unnoted now={now} />
      {zone.by_hand && <ByHand plan={plan} zone={zone} cell={cell} />}
      {record && (
        <Group gap="xs" mt={4}>
          {zone.by_hand && <Done site={site} view={view} zone={zone} />}
          {now.stage === "filling_in" && isTurf(now.made) && <Tug site={site} zone={zone} />}
          {alive && <Saw site={site} zone={zone} {...alive} />}
          {seen && <Saw site={site} zone={zone} {...seen} />}
        </Group>
      )}
    </li>
  );
}

/** Days of the past that a plan holds: of earlier ones it does not know whether a watering was noted. */
const LOOKED_BACK_DAYS = 13;

/** Days on which nobody noted a watering, until somebody does or sees how the grass is. */
function Unnoted({ now }: { now: NonNullable<ZonePlan["new_grass"]> }) {
  const unnoted = now.unnoted_days ?? 0;
  if (unnoted === 0 && !now.is_in_doubt) return null;
  const asks = now.stage === "not_up" ? "Is anything up?" : "Is it alive?";
  return (
    <span>
      {unnoted > 0 && (
        <strong>
          No watering noted for {counted(unnoted, "day")}
          {unnoted >= LOOKED_BACK_DAYS ? " and more" : ""}. {asks}{" "}
        </strong>
      )}
      {now.is_in_doubt &&
        `It was too dry for a week and more, and may have died. ${unnoted > 0 ? "" : `${asks} `}It stays at this stage until you say what you see. Where nothing is alive, it is to be sown again.`}
    </span>
  );
}

function ByHand({ plan, zone, cell }: { plan: WeekPlan; zone: ZonePlan; cell: ZonePlan["cells"][number] }) {
  const missed = zone.new_grass?.missed;
  const dry = cell.surface?.too_dry.find((hour) => missed && hour >= Number(missed.slice(11, 13)));
  return (
    <>
      {missed && (
        <span>
          <strong>Missed at {missed.slice(11, 16)}:</strong> nobody noted that it was watered.{" "}
          {dry !== undefined
            ? `Its top is dry from ${String(dry).padStart(2, "0")}:00 on: a thin stand is likely.`
            : "Water it now: its top still holds."}
        </span>
      )}
      <span>
        {cell.run ? (
          <>
            By hand <strong>{runWords(cell.run)}</strong> between {clock(cell.run.window.opens, plan.time_zone)} and{" "}
            {clock(cell.run.window.closes, plan.time_zone)}
            {cell.later.length > 0 &&
              `, then at ${cell.later.map(({ run }) => clock(run.window.opens, plan.time_zone)).join(", ")}`}
            .
          </>
        ) : (
          "Moist enough for the rest of today: nothing to water by hand."
        )}
      </span>
    </>
  );
}

/** As long as a watering of it takes: what is due next, or else what its longest slot of the week takes. */
const usual = (zone: ZonePlan) => zone.cells.flatMap(runsOf)[0];

function Done({ site, view, zone }: { site: string; view: SiteView; zone: ZonePlan }) {
  const add = useAddRun(site);
  const run = usual(zone);
  if (!run) return null;
  const seconds = run.run_s * run.settings;
  const done = () => {
    const started = new Date(Date.parse(view.now) - seconds * 1000);
    const body: Schemas["NewRun"] = {
      zone: Number(zone.zone),
      started_at: started.toISOString(),
      seconds: run.run_s,
      how: "hand",
      idempotency_key: newKey(),
    };
    add.mutate(body, {
      onSuccess: () =>
        notifications.show({
          message: `${zone.name}: ${minutes(run.run_s)} noted, begun at ${clock(body.started_at, view.site.time_zone)}.`,
        }),
      onError: (error) => notifications.show({ color: "red", message: error.message }),
    });
  };
  return (
    <Button size="sm" loading={add.isPending} onClick={done} aria-label={`Watered just now, ${zone.name}`}>
      Watered just now: {runWords(run)}
    </Button>
  );
}

/** Whether sod or plugs hold: what holds is watered less often, what comes away is soaked each day again. */
function Tug({ site, zone }: { site: string; zone: ZonePlan }) {
  const note = useNoteTug(site, Number(zone.zone));
  const say = (holds: boolean) =>
    note.mutate(holds, { onError: (error) => notifications.show({ color: "red", message: error.message }) });
  return (
    <>
      <Button
        size="sm"
        variant="outline"
        loading={note.isPending}
        onClick={() => say(true)}
        aria-label={`It holds when tugged, ${zone.name}`}
      >
        It holds when tugged
      </Button>
      <Button
        size="sm"
        variant="outline"
        loading={note.isPending}
        onClick={() => say(false)}
        aria-label={`It comes away, ${zone.name}`}
      >
        It comes away
      </Button>
    </>
  );
}

function Saw({ site, zone, grown, label }: { site: string; zone: ZonePlan; grown: Schemas["Grown"]; label: string }) {
  const note = useNoteGrown(site, Number(zone.zone));
  return (
    <Button
      size="sm"
      variant="outline"
      loading={note.isPending}
      onClick={() =>
        note.mutate(grown, { onError: (error) => notifications.show({ color: "red", message: error.message }) })
      }
      aria-label={`${label}, ${zone.name}`}
    >
      {label}
    </Button>
  );
}
