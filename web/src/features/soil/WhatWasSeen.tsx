// What was seen, from Morning: the zone, then one tap or key; a photo and the way back afterwards.
import { Button, FileButton, Group, NativeSelect, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useState } from "react";
import type { Schemas, SiteView, WeekPlan } from "../../api";
import { newKey } from "../../key";
import { clock } from "../../time";
import { useUnits } from "../../units";
import { ChangeList } from "../morning/ChangeList";
import { Refused } from "../shell/States";
import { testsQuery } from "../sprinklers/queries";
import { useOutbox } from "./outbox";
import { PlacePick } from "./PlacePick";
import { small } from "./picture";
import { type Observation, useUndoSeen } from "./queries";
import { SeenFigures } from "./SeenFigures";
import classes from "./Soil.module.css";
import { AT_ONCE, adviceWords, seenWords, WITH_FIGURE } from "./words";

type Props = { site: string; plan: WeekPlan; view: SiteView };

export function WhatWasSeen({ site, plan, view }: Props) {
  const units = useUnits();
  const outbox = useOutbox(site);
  const undo = useUndoSeen(site);
  const tests = useQuery(testsQuery(site));
  const shown = plan.zones.filter((z) => z.cells.some((c) => c.date === plan.today && c.state !== "absent"));
  const [zone, setZone] = useState(shown[0]?.zone ?? "");
  const [figure, setFigure] = useState<(typeof WITH_FIGURE)[number]["seen"]>();
  const [place, setPlace] = useState<Schemas["Point"]>();
  const [unread, setUnread] = useState(false);
  if (shown.length === 0) return null;

  const note = (seen: Observation) => {
    // By the site's clock: what is sent later was seen now.
    const after_noon = clock(view.now, view.site.time_zone) >= "12:00";
    outbox.put({
      zone: Number(zone),
      body: { seen, place: place ?? null, date: view.today, after_noon, idempotency_key: newKey() },
    });
    setFigure(undefined);
    setPlace(undefined);
  };
  const by = (key: string) => {
    const once = AT_ONCE.find((s) => s.key === key);
    if (once) note({ seen: once.seen });
    const asks = WITH_FIGURE.find((s) => s.key === key);
    if (asks) setFigure(asks.seen);
  };
  const keys = (event: KeyboardEvent) => {
    if (event.target instanceof HTMLInputElement || event.ctrlKey || event.metaKey || event.altKey) return;
    by(event.key);
  };
  const plain = tests.data?.find((t) => t.zone === Number(zone) && t.test.method === "cans");
  const last = outbox.last;
  const of = last && plan.zones.find((z) => z.zone === String(last.item.zone))?.name;
  const photo = async (file: File | null) => {
    if (!file || !last) return;
    try {
      outbox.put({ ...last.item, id: last.noted.id, photo: await small(file) });
      setUnread(false);
    } catch {
      setUnread(true);
    }
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys are a shorter way to the buttons within
    <section onKeyDown={keys}>
      <h2>What was seen</h2>
      <NativeSelect
        label="On"
        value={zone}
        data={shown.map((z) => ({ value: z.zone, label: z.name }))}
        onChange={(e) => {
          setZone(e.currentTarget.value);
          setPlace(undefined);
        }}
      />
      {plain?.test.method === "cans" && (
        <PlacePick corners={plain.test.corners} place={place} onPick={setPlace} label={`Plan of the zone`} />
      )}
      <div className={classes.seen}>
        {[...AT_ONCE, ...WITH_FIGURE].map((s) => (
          <Button
            key={s.seen}
            variant={figure === s.seen ? "filled" : "outline"}
            size="sm"
            px="xs"
            aria-keyshortcuts={s.key}
            onClick={() => by(s.key)}
          >
            {s.label}
          </Button>
        ))}
      </div>
      {figure && <SeenFigures key={`${figure}-${zone}`} site={site} zone={Number(zone)} kind={figure} onNote={note} />}
      {outbox.waiting > 0 && (
        <Text role="status" mt="xs">
          {outbox.waiting} saved on this phone, sent when connected.
        </Text>
      )}
      <Refused error={outbox.error ?? undo.error ?? null} />
      {unread && (
        <Text role="alert" c="clay">
          This file is not a picture that the phone can read.
        </Text>
      )}
      {last && (
        <div>
          <Text role="status" mt="xs">
            <strong>
              Noted on {of}: {seenWords(last.item.body.seen, units)}.
            </strong>
          </Text>
          {last.noted.advice.map((a) => (
            <Text key={a.advice} size="sm">
              {adviceWords(a)}
            </Text>
          ))}
          {(last.noted.changes?.length ?? 0) > 0 && (
            <ChangeList changes={last.noted.changes} zone={last.item.zone} today={plan.today} />
          )}
          <Group gap="xs">
            <FileButton accept="image/jpeg,image/png,image/webp" onChange={photo}>
              {(props) => (
                <Button {...props} size="xs" variant="outline">
                  Add a photo
                </Button>
              )}
            </FileButton>
            <Button
              size="xs"
              variant="subtle"
              loading={undo.isPending}
              onClick={() => undo.mutate(last.noted.id, { onSuccess: outbox.forgetLast })}
            >
              Undo
            </Button>
          </Group>
        </div>
      )}
    </section>
  );
}
