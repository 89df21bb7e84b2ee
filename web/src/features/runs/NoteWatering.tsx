// Watering by hand or hose: timed here while it runs, or noted afterwards. The timer survives a reload; a note sent twice is kept once.
import { Button, Group, Modal, NativeSelect, SegmentedControl, Stack, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useState } from "react";
import type { Schemas, SiteView, ZoneView } from "../../api";
import { newKey } from "../../key";
import { addDays, clock, instantOf, minutes, minutesSeconds, whenDay } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import { Sure, useSure } from "../forms/Sure";
import { Loading } from "../shell/States";
import { siteQuery, zonesQuery } from "../site/queries";
import { creditWords, hoseWords } from "./credit";
import { minutesProblem } from "./minutesProblem";
import { useAddRun } from "./queries";
import classes from "./Ran.module.css";
import { keepHose, lastHose, type Timing, useTiming } from "./timing";
import { useWhatWatered, WhatWatered } from "./WhatWatered";

export function NoteWatering({ site }: { site: string }) {
  const [open, setOpen] = useState(false);
  const [timing, setTiming] = useTiming(site);
  const view = useQuery(siteQuery(site));
  const zones = useQuery(zonesQuery(site));
  return (
    <>
      <Button variant={timing ? "filled" : "outline"} size="md" mt="xs" onClick={() => setOpen(true)}>
        {timing ? "Watering under way" : "Water by hand or hose"}
      </Button>
      <Modal
        opened={open}
        onClose={() => setOpen(false)}
        title="Water by hand or hose"
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {view.data && zones.data ? (
          <Form
            site={site}
            view={view.data}
            zones={zones.data.filter((z) => !z.zone.active_to)}
            timing={timing}
            setTiming={setTiming}
            onDone={() => setOpen(false)}
          />
        ) : (
          <Loading what="the zones" />
        )}
      </Modal>
    </>
  );
}

type FormProps = {
  site: string;
  view: SiteView;
  zones: ZoneView[];
  timing: Timing | undefined;
  setTiming: (timing: Timing | undefined) => void;
  onDone: () => void;
};

const DAYS_BACK = 3;

function Form({ site, view, zones, timing, setTiming, onDone }: FormProps) {
  const add = useAddRun(site);
  const units = useUnits();
  const ask = useSure();
  const [chosen, setChosen] = useState<number>();
  const zone = zones.find((z) => z.id === (timing?.zone ?? chosen)) ?? zones[0];
  const what = useWhatWatered(zone, { how: timing?.how, ...lastHose(site, zone?.id) });
  // When it was stopped: what is still to be said of it does not make it longer.
  const [stopped, setStopped] = useState<number>();
  const figures = useFigures({ minutes: 20 });
  const [wrong, setWrong] = useState<string>();
  const zoneOfTime = view.site.time_zone;
  const [date, setDate] = useState(view.today);
  const [time, setTime] = useState(clock(view.now, zoneOfTime));
  const [key] = useState(newKey);
  const now = useSeconds(timing !== undefined);
  if (!zone) return <TextInput label="Zone" readOnly value="No zones yet" />;
  const { name } = zone.zone;

  const send = (run: Omit<Schemas["NewRun"], "zone" | "sure">) =>
    ask.unlessUnlikely((sure) =>
      add.mutateAsync({ ...run, zone: zone.id, sure }).then(() => {
        if (run.watered?.by === "hose") keepHose(site, zone.id, run.watered);
        setTiming(undefined);
        notifications.show({ message: `${name}: ${minutes(run.seconds)} noted. ${creditWords(run)}` });
        onDone();
      }),
    );
  /** The site's instant so long ago: its clock may be another than this phone's. */
  const before = (seconds: number) => new Date(new Date(view.now).getTime() - seconds * 1000).toISOString();

  if (timing) {
    const seconds = Math.max(1, Math.round(((stopped ?? now) - timing.begun) / 1000));
    const stop = () => {
      const end = stopped ?? Date.now();
      setStopped(end);
      const watered = timing.watered ?? what.read();
      if (!watered) return;
      const ran = Math.max(1, Math.round((end - timing.begun) / 1000));
      send({
        how: timing.how,
        seconds: ran,
        started_at: before(Math.max(1, Math.round((Date.now() - timing.begun) / 1000))),
        idempotency_key: timing.key,
        watered,
      });
    };
    return (
      <Stack>
        <Text>
          {name} {stopped ? "was" : "is being"} watered{timing.watered ? `, ${hoseWords(timing.watered, units)}` : ""}.
        </Text>
        <div className={classes.timer} role="timer">
          {minutesSeconds(seconds)}
        </div>
        {!timing.watered && <WhatWatered what={what} />}
        <Sure ask={ask} timeZone={zoneOfTime} />
        <Group>
          <Button size="lg" loading={add.isPending} onClick={stop}>
            {stopped ? "Note it" : "Stop and note it"}
          </Button>
          <Button variant="outline" size="lg" onClick={() => setTiming(undefined)}>
            Do not keep it
          </Button>
        </Group>
      </Stack>
    );
  }
  // The hose runs: where it waters and how much it gives is said meanwhile, or when it stops.
  const begin = () => setTiming({ zone: zone.id, how: what.how, begun: Date.now(), key });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found = minutesProblem(figures.text("minutes"));
    setWrong(found);
    const watered = what.read();
    const ended = instantOf(date, time, zoneOfTime);
    if (found || !watered || !ended) return;
    const seconds = Math.round((figures.si("minutes") ?? 0) * 60);
    const started_at = new Date(new Date(ended).getTime() - seconds * 1000).toISOString();
    send({ how: what.how, seconds, started_at, watered, idempotency_key: key });
  };
  const days = Array.from({ length: DAYS_BACK + 1 }, (_, i) => addDays(view.today, -i));
  return (
    <form onSubmit={submit} noValidate>
      <Stack>
        <NativeSelect
          label="Zone"
          value={String(zone.id)}
          data={zones.map((z) => ({ value: String(z.id), label: z.zone.name }))}
          onChange={(e) => {
            const id = Number(e.currentTarget.value);
            setChosen(id);
            what.figures.fill({ reached_m2: lastHose(site, id).reached });
          }}
        />
        <SegmentedControl
          aria-label="How"
          value={what.how}
          onChange={(v) => what.setHow(v as Schemas["How"])}
          data={[
            { value: "hose", label: "By hose" },
            { value: "hand", label: zone.zone.sprinkler === "portable" ? "Its own sprinkler" : "Valve by hand" },
          ]}
        />
        <Button size="lg" onClick={begin}>
          Start the timer now
        </Button>
        <Text className="quiet">Or note what was watered already:</Text>
        <div className={classes.noted}>
          <FigureField figures={figures} name="minutes" label="Minutes" error={wrong} />
          <NativeSelect
            label="Ended"
            value={date}
            data={days.map((d) => ({ value: d, label: whenDay(d, view.today) }))}
            onChange={(e) => setDate(e.currentTarget.value)}
          />
          <TextInput label="At" type="time" value={time} onChange={(e) => setTime(e.currentTarget.value)} />
        </div>
        <WhatWatered what={what} />
        <Sure ask={ask} timeZone={zoneOfTime} />
        <Button type="submit" variant="outline" size="md" loading={add.isPending}>
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
