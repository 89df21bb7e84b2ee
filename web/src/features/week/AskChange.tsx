// What is to become of a day: asked, looked at, and then kept. Enter looks, Enter again keeps.
import { Box, Button, Group, NativeSelect, SegmentedControl, Text, TextInput } from "@mantine/core";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { ApiFailure, type Cell, type Schemas, type ZonePlan } from "../../api";
import { newKey } from "../../key";
import { parse } from "../../numbers";
import { minutes, shortDay } from "../../time";
import { Sure, useSure } from "../forms/Sure";
import { Refused } from "../shell/States";
import { BothVersions } from "./BothVersions";
import { type Act, useChangeDay, useTryChange } from "./edits";
import { Follows } from "./Follows";

const ACTS: { value: Act; label: string; keep: string }[] = [
  { value: "skip", label: "Skip", keep: "Skip the day" },
  { value: "minutes", label: "Minutes", keep: "Water it so" },
  { value: "move", label: "Move", keep: "Move it" },
  { value: "lock", label: "Lock", keep: "Keep it as it is" },
];

/** Height of a field's label: the buttons stand beside the field. */
const LABEL_PX = 25;

/** Whether a day leaves hours to water in, as far as the plan says. */
const isOpen = (cell: Cell) => cell.state === "water" || cell.state === "hold" || cell.state === "skip";

/** A step of the buttons that take or add minutes. */
const STEP_MIN = 5;

export type DayProps = { site: string; zone: ZonePlan; cell: Cell; today: string };

type Props = DayProps & {
  /** The edit that holds on the day. */
  seen: number | null;
  first?: Act | undefined;
  onKept?: (() => void) | undefined;
};

export function AskChange({ site, zone, cell, today, seen, first, onKept }: Props) {
  const [act, setAct] = useState<Act>(first ?? "skip");
  const [reason, setReason] = useState("");
  const [typed, setTyped] = useState<string>();
  // What is planned, until somebody types.
  const run = typed ?? (cell.run ? String(Math.round(cell.run.run_s / 60)) : "20");
  // Only days that may still be watered are offered.
  const days = zone.cells.filter((c) => c.date > today && c.date !== cell.date && isOpen(c)).map((c) => c.date);
  const [to, setTo] = useState(days[0] ?? today);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [key, setKey] = useState(newKey);
  // Somebody changed the day meanwhile: what holds of it now.
  const [stale, setStale] = useState<{ theirs: Schemas["EditView"] | undefined }>();
  const attempt = useTryChange(site);
  const keep = useChangeDay(site);
  const ask = useSure();
  const keepButton = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (attempt.data) keepButton.current?.focus();
  }, [attempt.data]);

  const chosen = ACTS.find((a) => a.value === act);
  const body = (keeps: boolean): Schemas["NewChange"] | undefined => {
    const minutesTyped = parse(run);
    if (act === "minutes" && minutesTyped === undefined) {
      setWrong({ run_minutes: `“${run}” is not a number.` });
      return undefined;
    }
    if (act === "skip" && keeps && reason.trim() === "") {
      setWrong({ reason: "Say why before it is kept: others read it." });
      return undefined;
    }
    setWrong({});
    const how: Schemas["EditAct"] =
      act === "minutes"
        ? { kind: act, run_minutes: minutesTyped ?? 0 }
        : act === "move"
          ? { kind: act, to }
          : { kind: act };
    const known = stale ? (stale.theirs?.id ?? null) : seen;
    return { act: how, date: cell.date, seen: known, reason: reason.trim() || null, idempotency_key: key };
  };
  const onError = (error: Error) => {
    const problem = error instanceof ApiFailure ? error.problem : undefined;
    if (problem?.field) setWrong({ [problem.field.replace("act.", "")]: error.message });
    if (problem?.status === 412) setStale({ theirs: (problem.current as Schemas["EditView"][] | undefined)?.[0] });
  };
  const done = () => {
    setKey(newKey());
    setReason("");
    setTyped(undefined);
    setAct("skip");
    setStale(undefined);
    attempt.reset();
    keep.reset();
  };
  const look = () => {
    const asked = body(false);
    // Both versions have been seen: what comes next is an answer to what holds now.
    if (asked) attempt.mutate({ zone: Number(zone.zone), body: asked }, { onError, onSuccess: () => keep.reset() });
  };
  const send = () => {
    const asked = body(true);
    if (!asked) return;
    const kept = () => {
      done();
      onKept?.();
    };
    // What was looked at holds no more once it is refused; what is asked about still does.
    const refused = (error: Error) => {
      if (!isAsked(error)) {
        onError(error);
        attempt.reset();
      }
      throw error;
    };
    ask.unlessUnlikely((sure) =>
      keep.mutateAsync({ zone: Number(zone.zone), body: { ...asked, sure } }).then(kept, refused),
    );
  };
  // What was looked at is no longer what is asked.
  const again = () => attempt.reset();
  const step = (by: number) => {
    setTyped(String(Math.max(1, (parse(run) ?? 0) + by)));
    again();
  };
  const isStale = (error: Error | null) => error instanceof ApiFailure && error.status === 412;
  const isAsked = (error: Error | null) => error instanceof ApiFailure && error.problem?.unlikely != null;
  const refused = attempt.error ?? (isAsked(keep.error) ? null : keep.error);
  const mine = () => {
    if (act === "minutes") return `${run} min`;
    if (act === "move") return `Move to ${shortDay(to)}`;
    if (act === "lock") return `Lock at ${minutes(cell.run?.run_s ?? 0)}`;
    return "Skip";
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    look();
  };
  return (
    <form onSubmit={submit} aria-label="Change of the day">
      <SegmentedControl
        fullWidth
        my="xs"
        aria-label="What to do with the day"
        value={act}
        onChange={(value) => {
          setAct(value as Act);
          again();
        }}
        data={ACTS.filter(
          (a) => (cell.run && (a.value !== "move" || days.length > 0)) || a.value === "skip" || a.value === "minutes",
        ).map((a) => (a.value === "minutes" && !cell.run ? { ...a, label: "Add a watering" } : a))}
      />
      {act === "minutes" && (
        <Group align="flex-start" gap="xs" wrap="nowrap">
          <TextInput
            label={zone.by_hand ? "For how many minutes in each place" : "For how many minutes"}
            inputMode="decimal"
            style={{ flex: 1 }}
            value={run}
            error={wrong.run_minutes}
            data-autofocus={first === "minutes" || undefined}
            onChange={(e) => {
              setTyped(e.currentTarget.value);
              again();
            }}
          />
          <Button
            variant="default"
            px="sm"
            mt={LABEL_PX}
            onClick={() => step(-STEP_MIN)}
            aria-label={`${STEP_MIN} min less`}
          >
            − {STEP_MIN}
          </Button>
          <Button
            variant="default"
            px="sm"
            mt={LABEL_PX}
            onClick={() => step(STEP_MIN)}
            aria-label={`${STEP_MIN} min more`}
          >
            + {STEP_MIN}
          </Button>
        </Group>
      )}
      {act === "move" && (
        <NativeSelect
          label="To"
          value={to}
          error={wrong.to}
          data-autofocus={first === "move" || undefined}
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
        data-autofocus={first === "skip" || undefined}
        onChange={(e) => setReason(e.currentTarget.value)}
      />
      {wrong.date && <Text c="red">{wrong.date}</Text>}
      {stale && <BothVersions mine={mine()} reason={reason} theirs={stale.theirs} onMine={look} onTheirs={done} />}
      {Object.keys(wrong).length === 0 && !isStale(refused) && <Refused error={refused} />}
      {attempt.data && (
        <Follows
          follows={attempt.data}
          today={today}
          zone={zone.zone}
          asked={
            act === "minutes"
              ? { date: cell.date, minutes: parse(run) ?? 0, planned: (cell.run?.run_s ?? 0) / 60 }
              : undefined
          }
        />
      )}
      {ask.asked && (
        <Box mt="xs">
          <Sure ask={ask} timeZone="UTC" />
        </Box>
      )}
      <Group mt="xs" gap="xs">
        <Button
          type="submit"
          variant="outline"
          loading={attempt.isPending}
          data-autofocus={first === "lock" || undefined}
        >
          See what follows
        </Button>
        <Button ref={keepButton} disabled={!attempt.data} loading={keep.isPending} onClick={send}>
          {act === "minutes" && !cell.run ? "Add it" : chosen?.keep}
        </Button>
      </Group>
    </form>
  );
}
