// A day of a zone changed by a person: what follows is read before it is kept.
import { Button, Group, NativeSelect, SegmentedControl, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ApiFailure, type Cell, type Schemas, type ZonePlan } from "../../api";
import { newKey } from "../../key";
import { minutes, sentenceCase, shortDay } from "../../time";
import { useUnits } from "../../units";
import { parse } from "../forms/figures";
import { changeWords } from "../morning/Changes";
import classes from "../reasons/Working.module.css";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { editsQuery, useChangeDay, useTryChange, useUndo } from "./edits";

type Act = Schemas["EditAct"]["kind"];

const ACTS: { value: Act; label: string; keep: string }[] = [
  { value: "skip", label: "Skip", keep: "Skip the day" },
  { value: "minutes", label: "Minutes", keep: "Water it so" },
  { value: "move", label: "Move", keep: "Move it" },
  { value: "lock", label: "Lock", keep: "Keep it as it is" },
];

type Props = { site: string; zone: ZonePlan; cell: Cell; today: string };

export function ChangeDay({ site, zone, cell, today }: Props) {
  const { manage } = useRights(site);
  const edits = useQuery(editsQuery(site));
  const change = useChangeDay(site);
  const undo = useUndo(site);
  const own = (edits.data ?? []).find((e) => String(e.zone) === zone.zone && e.date === cell.date);
  const held = own && own.becomes.kind !== "as_planned" ? own : undefined;
  if (cell.date < today || zone.regime !== "established" || (!manage && !held)) return null;
  const release = () =>
    change.mutate({
      zone: Number(zone.zone),
      body: { act: { kind: "release" }, date: cell.date, seen: own?.id ?? null, idempotency_key: newKey() },
    });
  return (
    <section className={classes.dry}>
      <h3 className={classes.heading}>Change this day</h3>
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
      {manage && <Ask site={site} zone={zone} cell={cell} today={today} seen={own?.id ?? null} />}
    </section>
  );
}

function heldWords(edit: Schemas["EditView"]): string {
  if (edit.becomes.kind === "taken_out") return edit.act === "move" ? "Moved to another day" : "Skipped";
  if (edit.becomes.kind === "as_planned") return "As planned";
  const run = minutes(edit.becomes.passes * edit.becomes.pass_s);
  return edit.act === "lock" ? `Locked at ${run}` : `Set to ${run}`;
}

function Ask({ site, zone, cell, today, seen }: Props & { seen: number | null }) {
  const [act, setAct] = useState<Act>("skip");
  const [reason, setReason] = useState("");
  const [typed, setTyped] = useState<string>();
  // What is planned, until somebody types.
  const run = typed ?? (cell.run ? String(Math.round(cell.run.run_s / 60)) : "20");
  const days = zone.cells.filter((c) => c.date >= today && c.date !== cell.date).map((c) => c.date);
  const [to, setTo] = useState(days[0] ?? today);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [key, setKey] = useState(newKey);
  const attempt = useTryChange(site);
  const keep = useChangeDay(site);
  const chosen = ACTS.find((a) => a.value === act);
  const body = (): Schemas["NewChange"] | undefined => {
    const minutesTyped = parse(run);
    if (act === "minutes" && minutesTyped === undefined) {
      setWrong({ run_minutes: `“${run}” is not a number.` });
      return undefined;
    }
    if (act === "skip" && reason.trim() === "") {
      setWrong({ reason: "Say why: others read it." });
      return undefined;
    }
    setWrong({});
    const how: Schemas["EditAct"] =
      act === "minutes"
        ? { kind: act, run_minutes: minutesTyped ?? 0 }
        : act === "move"
          ? { kind: act, to }
          : { kind: act };
    return { act: how, date: cell.date, seen, reason: reason.trim() || null, idempotency_key: key };
  };
  const onError = (error: Error) => {
    const field = error instanceof ApiFailure ? error.problem?.field : undefined;
    if (field) setWrong({ [field.replace("act.", "")]: error.message });
  };
  // Somebody else's change shows above meanwhile; what was typed stays until it is kept.
  const done = () => {
    setKey(newKey());
    setReason("");
    setTyped(undefined);
    setAct("skip");
    attempt.reset();
  };
  const look = () => {
    const asked = body();
    if (asked) attempt.mutate({ zone: Number(zone.zone), body: asked }, { onError });
  };
  const send = () => {
    const asked = body();
    // What was looked at holds no more once it is refused.
    const refused = (error: Error) => {
      onError(error);
      attempt.reset();
    };
    if (asked) keep.mutate({ zone: Number(zone.zone), body: asked }, { onError: refused, onSuccess: done });
  };
  // What was looked at is no longer what is asked.
  const again = () => attempt.reset();
  return (
    <>
      <SegmentedControl
        fullWidth
        my="xs"
        aria-label="What to do with the day"
        value={act}
        onChange={(value) => {
          setAct(value as Act);
          again();
        }}
        data={ACTS.filter((a) => cell.run || a.value === "skip" || a.value === "minutes")}
      />
      {act === "minutes" && (
        <TextInput
          label={zone.by_hand ? "For how many minutes in each place" : "For how many minutes"}
          inputMode="decimal"
          value={run}
          error={wrong.run_minutes}
          onChange={(e) => {
            setTyped(e.currentTarget.value);
            again();
          }}
        />
      )}
      {act === "move" && (
        <NativeSelect
          label="To"
          value={to}
          error={wrong.to}
          onChange={(e) => {
            setTo(e.currentTarget.value);
            again();
          }}
          data={days.map((d) => ({ value: d, label: shortDay(d) }))}
        />
      )}
      <TextInput
        label={act === "skip" ? "Why" : "Why (if others should know)"}
        maxLength={200}
        value={reason}
        error={wrong.reason}
        onChange={(e) => setReason(e.currentTarget.value)}
      />
      {wrong.date && <Text c="red">{wrong.date}</Text>}
      <Refused error={attempt.error ?? keep.error} />
      {attempt.data && <Follows follows={attempt.data} today={today} zone={zone} />}
      <Group mt="xs" gap="xs">
        <Button variant="outline" loading={attempt.isPending} onClick={look}>
          See what follows
        </Button>
        <Button disabled={!attempt.data} loading={keep.isPending} onClick={send}>
          {chosen?.keep}
        </Button>
      </Group>
    </>
  );
}

/** The zone's week before and after, and what it changes for others. */
function Follows({ follows, today, zone }: { follows: Schemas["Follows"]; today: string; zone: ZonePlan }) {
  const units = useUnits();
  const { before, after } = follows;
  const rows: [string, string, string][] = [
    ["Water this week", units.show("volume", before.volume_l), units.show("volume", after.volume_l)],
    ["Minutes", minutes(before.run_s), minutes(after.run_s)],
    ["Days too dry, if no rain comes", String(before.days_too_dry), String(after.days_too_dry)],
    [
      "At most beyond the limit",
      units.show("depth", before.most_too_dry_mm),
      units.show("depth", after.most_too_dry_mm),
    ],
    ["Used at the end of the week", units.show("depth", before.depletion_mm), units.show("depth", after.depletion_mm)],
  ];
  const drains = follows.warnings.find((w) => w.warning === "edit_drains");
  const others = follows.changes.filter((c) => c.zone !== zone.zone).length;
  const ownChanges = follows.changes.filter((c) => c.zone === zone.zone);
  return (
    <>
      <table className={classes.lines} data-wide>
        <caption className="hidden">What follows</caption>
        <thead>
          <tr>
            <th scope="col">This week</th>
            <th scope="col">Now</th>
            <th scope="col">Then</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, now, then]) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td className="number">{now}</td>
              <td className="number">{then}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={classes.plain}>
        {ownChanges.map((c) => sentenceCase(changeWords(c, today))).join(" ")}
        {others > 0 ? ` ${others === 1 ? "One watering" : `${others} waterings`} of other zones change too.` : ""}
        {drains ? ` ${units.show("depth", drains.drains_mm)} of it would drain below the roots.` : ""}
      </p>
    </>
  );
}
