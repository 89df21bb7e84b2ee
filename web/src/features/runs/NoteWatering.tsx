// Watering by hand or hose: timed here while it runs, or noted afterwards. The timer survives a reload; a note sent twice is kept once.
import {
  Button,
  Group,
  Modal,
  NativeSelect,
  NumberInput,
  SegmentedControl,
  Stack,
  Text,
  TextInput,
} from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useState } from "react";
import type { Schemas } from "../../api";
import { newKey } from "../../key";
import { minutes, minutesSeconds } from "../../time";
import { Refused } from "../shell/States";
import { siteQuery, zonesQuery } from "../site/queries";
import { minutesProblem } from "./minutesProblem";
import { useAddRun } from "./queries";
import classes from "./Ran.module.css";

/** A watering under way, kept on this phone. */
type Timing = { zone: number; how: Schemas["How"]; begun: number; key: string };

const storageKey = (site: string) => `fresh-meadow-timing-${site}`;

function useTiming(site: string) {
  const [timing, setTiming] = useState<Timing | undefined>(() => {
    const kept = localStorage.getItem(storageKey(site));
    return kept ? (JSON.parse(kept) as Timing) : undefined;
  });
  const keep = (next: Timing | undefined) => {
    if (next) localStorage.setItem(storageKey(site), JSON.stringify(next));
    else localStorage.removeItem(storageKey(site));
    setTiming(next);
  };
  return [timing, keep] as const;
}

export function NoteWatering({ site }: { site: string }) {
  const [open, setOpen] = useState(false);
  const [timing, setTiming] = useTiming(site);
  return (
    <>
      <Button variant={timing ? "filled" : "outline"} size="sm" mt="xs" onClick={() => setOpen(true)}>
        {timing ? "Watering under way" : "Water by hand or hose"}
      </Button>
      <Modal
        opened={open}
        onClose={() => setOpen(false)}
        title="Water by hand or hose"
        closeButtonProps={{ "aria-label": "Close" }}
      >
        <Form site={site} timing={timing} setTiming={setTiming} onDone={() => setOpen(false)} />
      </Modal>
    </>
  );
}

type FormProps = {
  site: string;
  timing: Timing | undefined;
  setTiming: (timing: Timing | undefined) => void;
  onDone: () => void;
};

function Form({ site, timing, setTiming, onDone }: FormProps) {
  const view = useQuery(siteQuery(site));
  const zones = useQuery(zonesQuery(site));
  const add = useAddRun(site);
  const [zone, setZone] = useState<string>();
  const [how, setHow] = useState<Schemas["How"]>("hose");
  const [length, setLength] = useState<number | string>(20);
  const [wrong, setWrong] = useState<string>();
  const [ago, setAgo] = useState<number | string>(0);
  const [key] = useState(newKey);
  const now = useSeconds(timing !== undefined);
  const living = (zones.data ?? []).filter((z) => !z.zone.active_to);
  const chosen = timing?.zone ?? Number(zone ?? living[0]?.id);
  const name = living.find((z) => z.id === chosen)?.zone.name ?? "";

  /** The site's instant so long ago: its clock may be another than this phone's. */
  const before = (seconds: number) => {
    const siteNow = view.data ? new Date(view.data.now).getTime() : Date.now();
    return new Date(siteNow - seconds * 1000).toISOString();
  };
  const send = (run: Schemas["NewRun"]) =>
    add.mutate(run, {
      onSuccess: () => {
        setTiming(undefined);
        notifications.show({ message: `${name}: ${minutes(run.seconds)} noted, and planned again.` });
        onDone();
      },
    });
  if (timing) {
    const seconds = Math.max(1, Math.round((now - timing.begun) / 1000));
    return (
      <Stack>
        <Text>{name} is being watered.</Text>
        <div className={classes.timer} role="timer">
          {minutesSeconds(seconds)}
        </div>
        <Refused error={add.error} />
        <Group>
          <Button
            size="md"
            loading={add.isPending}
            onClick={() =>
              send({
                zone: timing.zone,
                how: timing.how,
                seconds,
                started_at: before(seconds),
                idempotency_key: timing.key,
              })
            }
          >
            Stop and note it
          </Button>
          <Button variant="outline" onClick={() => setTiming(undefined)}>
            Forget it
          </Button>
        </Group>
      </Stack>
    );
  }
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found = minutesProblem(length);
    setWrong(found);
    if (found) return;
    const seconds = Math.round(Number(length) * 60);
    send({
      zone: chosen,
      how,
      seconds,
      started_at: before(seconds + Math.round(Number(ago) * 3600)),
      idempotency_key: key,
    });
  };
  return (
    <form onSubmit={submit}>
      <Stack>
        {living.length > 0 ? (
          <NativeSelect
            label="Zone"
            value={String(chosen)}
            data={living.map((z) => ({ value: String(z.id), label: z.zone.name }))}
            onChange={(e) => setZone(e.currentTarget.value)}
          />
        ) : (
          <TextInput label="Zone" readOnly value="No zones yet" />
        )}
        <SegmentedControl
          aria-label="How"
          value={how}
          onChange={(v) => setHow(v as Schemas["How"])}
          data={[
            { value: "hose", label: "By hose" },
            { value: "hand", label: "Valve by hand" },
          ]}
        />
        <Button
          size="md"
          onClick={() => setTiming({ zone: chosen, how, begun: Date.now(), key })}
          disabled={living.length === 0}
        >
          Start the timer now
        </Button>
        <Text className="quiet">Or note what was watered already:</Text>
        <Group grow align="flex-start">
          <NumberInput label="Minutes" value={length} error={wrong} onChange={setLength} hideControls />
          <NumberInput label="Ended, hours ago" value={ago} min={0} max={72} onChange={setAgo} hideControls />
        </Group>
        <Refused error={add.error} />
        <Button type="submit" variant="outline" loading={add.isPending} disabled={living.length === 0}>
          Note it
        </Button>
      </Stack>
    </form>
  );
}

/** This phone's clock, each second while it is wanted. */
function useSeconds(wanted: boolean): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (!wanted) return;
    setNow(Date.now());
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, [wanted]);
  return now;
}
