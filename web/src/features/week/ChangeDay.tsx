// A day of a zone changed by a person: what holds, and what is to become of it.
import { Button, Group, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { newKey } from "../../key";
import { shortDay } from "../../time";
import { dryDaysQuery, useDryDay } from "../reasons/queries";
import classes from "../reasons/Working.module.css";
import { isRooted } from "../reasons/words";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { AskChange, type DayProps } from "./AskChange";
import { ChangeSchool } from "./ChangeSchool";
import { type Act, editsQuery, heldWords, useChangeDay, useUndo } from "./edits";

type Props = DayProps & {
  /** What to begin with. */
  first?: Act | undefined;
  onKept?: () => void;
};

export function ChangeDay({ first, onKept, ...day }: Props) {
  const { site, zone, cell, today } = day;
  const { manage, record } = useRights(site);
  const edits = useQuery(editsQuery(site));
  const change = useChangeDay(site);
  const undo = useUndo(site);
  const days = edits.data?.days ?? [];
  const own = days.find((e) => String(e.zone) === zone.zone && e.date === cell.date);
  const held = own && own.becomes.kind !== "as_planned" ? own : undefined;
  if (!canChange(zone, cell, today) || (!record && !held)) return null;
  const release = () =>
    change.mutate({
      zone: Number(zone.zone),
      body: { act: { kind: "release" }, date: cell.date, seen: own?.id ?? null, idempotency_key: newKey() },
    });
  return (
    <section className={classes.dry}>
      <h3 className={classes.heading}>Change this day</h3>
      {record && <KeepDry {...day} />}
      {held && (
        <Group gap="xs">
          <Text size="sm">
            {heldWords(held)}
            {held.reason ? `: ${held.reason}` : ""}
            {held.who ? ` (${held.who})` : ""}
          </Text>
          {manage && (
            <>
              <Button size="compact-sm" variant="subtle" loading={undo.isPending} onClick={() => undo.mutate(held.id)}>
                Undo
              </Button>
              <Button size="compact-sm" variant="subtle" loading={change.isPending} onClick={release}>
                Back to the plan
              </Button>
            </>
          )}
        </Group>
      )}
      <Refused error={undo.error ?? change.error ?? edits.error} />
      {manage && <AskChange {...day} seen={own?.id ?? null} first={first} onKept={onKept} />}
      {manage && <ChangeSchool site={site} zone={zone} today={today} />}
    </section>
  );
}

/** One tap: the zone stays dry that day, or no longer. */
function KeepDry({ site, zone, cell }: DayProps) {
  const dry = useQuery(dryDaysQuery(site));
  const set = useDryDay(site);
  const kept = dry.data?.find((d) => String(d.zone) === zone.zone && d.date === cell.date);
  const say = (stays: boolean) =>
    set.mutate({ zone: Number(zone.zone), date: cell.date, kept: stays, note: kept?.note ?? "" });
  return (
    <>
      <Group gap="xs" my="xs">
        {kept && <Text size="sm">Kept dry on {shortDay(cell.date)}.</Text>}
        <Button size="compact-sm" variant="outline" loading={set.isPending} onClick={() => say(!kept)}>
          {kept ? "No longer dry" : `Keep dry on ${shortDay(cell.date)}`}
        </Button>
      </Group>
      <Refused error={set.error ?? dry.error} />
    </>
  );
}

/** Whether a day of a zone is one that people can change. */
export const canChange = (zone: DayProps["zone"], cell: DayProps["cell"], today: string) =>
  cell.date >= today && cell.state !== "absent" && isRooted(zone.regime);
