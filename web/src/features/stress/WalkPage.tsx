// Walking the lawn in heat, zone after zone, what dries out first before the rest; what is seen goes at once, or is kept on the phone until it is connected.
import { Button, FileButton, Group, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { SiteView } from "../../api";
import { newKey } from "../../key";
import { clock, dated, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { ChangeList } from "../morning/ChangeList";
import { grassName, isRooted } from "../reasons/words";
import { MayRecord } from "../session/MayRecord";
import { Failed, failure, Loading, Refused } from "../shell/States";
import { siteQuery } from "../site/queries";
import { useOutbox } from "../soil/outbox";
import { small } from "../soil/picture";
import { useUndoSeen } from "../soil/queries";
import { adviceWords } from "../soil/words";
import { LookForm } from "./LookForm";
import { type StressView, stressQuery, type ZoneStress } from "./queries";
import classes from "./Walk.module.css";
import { dueWords, meansWords } from "./words";

export function WalkPage() {
  const { site } = useParams({ from: "/site/$site/stress/walk" });
  const view = useQuery(siteQuery(site));
  const stress = useQuery(stressQuery(site));
  const error = failure(view, stress);
  if (error) return <Failed message={error.message} retry={() => stress.refetch()} />;
  if (!view.data || !stress.data) return <Loading what="the walk-round" />;
  return (
    <MayRecord site={site} what="walk the lawn">
      <Walk site={site} view={view.data} stress={stress.data} />
    </MayRecord>
  );
}

/** The zones to walk in their order, as they were when the walk began: a look changes which has used most. */
function inWalkOrder({ zones, walk_order }: StressView): ZoneStress[] {
  const at = (zone: ZoneStress) => walk_order.indexOf(zone.zone);
  return zones.filter((z) => isRooted(z.regime)).sort((a, b) => at(a) - at(b));
}

function Walk({ site, view, stress }: { site: string; view: SiteView; stress: StressView }) {
  const units = useUnits();
  const [order] = useState(() => inWalkOrder(stress).map((z) => z.zone));
  const [at, setAt] = useState(0);
  const outbox = useOutbox(site);
  const [lookedAt, setLookedAt] = useState<string>();
  const zone = stress.zones.find((z) => z.zone === order[at]);
  const next = stress.zones.find((z) => z.zone === order[at + 1]);
  const go = (to: number) => {
    setAt(to);
    setLookedAt(undefined);
    window.scrollTo(0, 0);
  };
  if (!zone) {
    return (
      <main className={classes.page}>
        <h1>{order.length === 0 ? "No zone to walk" : "The lawn is walked"}</h1>
        {outbox.waiting > 0 && <Waiting count={outbox.waiting} />}
        <p>
          <Link to="/site/$site/stress" params={{ site }}>
            Heat and drought
          </Link>
        </p>
      </main>
    );
  }
  return (
    <main className={classes.page}>
      <p className="quiet">
        Walk-round, zone {at + 1} of {order.length}: what dries out first before the rest
      </p>
      <h1>{zone.name}</h1>
      <Text>
        {sentenceCase(grassName(zone.grass))}
        {zone.walk_due ? `. Look at it: ${dueWords(zone.walk_due, stress.today, units)}.` : ". Not due today."}
        {zone.walked_on ? ` Last looked at ${zone.walked_on === stress.today ? "today" : dated(zone.walked_on)}.` : ""}
      </Text>
      {lookedAt === undefined ? (
        <LookForm
          key={zone.zone}
          zone={zone}
          onLook={(look) => {
            const after_noon = clock(view.now, view.site.time_zone) >= "12:00";
            const idempotency_key = newKey();
            outbox.put({ zone: zone.zone, body: { ...look, date: view.today, after_noon, idempotency_key } });
            setLookedAt(idempotency_key);
          }}
        />
      ) : (
        <Found site={site} outbox={outbox} look={lookedAt} today={stress.today} again={() => setLookedAt(undefined)} />
      )}
      <Group mt="md" gap="xs">
        {at > 0 && (
          <Button size="md" variant="subtle" onClick={() => go(at - 1)}>
            Back
          </Button>
        )}
        <Button size="md" variant={lookedAt ? "filled" : "subtle"} onClick={() => go(at + 1)}>
          {next ? `${lookedAt ? "Next" : "Pass over to"}: ${next.name}` : "End the walk"}
        </Button>
      </Group>
    </main>
  );
}

const Waiting = ({ count }: { count: number }) => (
  <Text role="status" mt="xs">
    {count} saved on this phone, sent when connected.
  </Text>
);

type FoundProps = {
  site: string;
  outbox: ReturnType<typeof useOutbox>;
  look: string;
  today: string;
  again: () => void;
};

/** What a look means, what it changes, a photo, and the way back. */
function Found({ site, outbox, look, today, again }: FoundProps) {
  const units = useUnits();
  const undo = useUndoSeen(site);
  const [unread, setUnread] = useState(false);
  const [photo, setPhoto] = useState(false);
  const last = outbox.last?.item.body.idempotency_key === look ? outbox.last : undefined;
  if (!last) {
    return (
      <Stack gap="xs" mt="sm">
        {outbox.waiting > 0 && <Waiting count={outbox.waiting} />}
        <Refused error={outbox.error ?? null} />
        {outbox.error && (
          <Button variant="outline" onClick={again}>
            Look again
          </Button>
        )}
      </Stack>
    );
  }
  const add = async (file: File | null) => {
    if (!file) return;
    try {
      outbox.put({ ...last.item, id: last.noted.id, photo: await small(file) });
      setUnread(false);
      setPhoto(true);
    } catch {
      setUnread(true);
    }
  };
  const words = last.noted.means.map((means) => meansWords(means, units));
  const changes = last.noted.changes ?? [];
  const own = changes.filter((change) => change.zone === String(last.item.zone));
  const others = changes.length - own.length;
  const advice = last.noted.advice.filter((a) => a.advice !== "water_by_hand");
  return (
    <Stack gap="xs" mt="sm">
      <div role="status" className={classes.means}>
        {words.map(({ what, deed }) => (
          <p key={what}>
            <strong>{what}.</strong> {deed}
          </p>
        ))}
      </div>
      {last.noted.means.some((m) => m.means === "dead" || m.means === "look_at_crowns" || m.means === "asleep") && (
        <Link to="/site/$site/stress/recovery" params={{ site }}>
          Note the patch, with its area and a photo
        </Link>
      )}
      {advice.map((a) => (
        <Text key={a.advice} size="sm">
          {adviceWords(a)}
        </Text>
      ))}
      {changes.length > 0 ? (
        <div>
          <strong>In the plan</strong>
          <ChangeList changes={own} zone={last.item.zone} today={today} />
          {others > 0 && (
            <Text size="sm" className="quiet">
              {own.length > 0 ? "Beside it, " : ""}
              {others === 1 ? "one run" : `${others} runs`} of other zones {others === 1 ? "moves" : "move"} this week.
            </Text>
          )}
        </div>
      ) : (
        <Text>The plan stays as it is.</Text>
      )}
      <Refused error={outbox.error ?? undo.error ?? null} />
      {unread && (
        <Text role="alert" c="clay">
          This file is not a picture that the phone can read.
        </Text>
      )}
      <Group gap="xs">
        <FileButton accept="image/jpeg,image/png,image/webp" onChange={add}>
          {(props) => (
            <Button {...props} size="md" variant="outline">
              {photo ? "Another photo instead" : "Add a photo"}
            </Button>
          )}
        </FileButton>
        <Button
          size="md"
          variant="subtle"
          loading={undo.isPending}
          onClick={() =>
            undo.mutate(last.noted.id, {
              onSuccess: () => {
                outbox.forgetLast();
                again();
              },
            })
          }
        >
          Undo
        </Button>
      </Group>
    </Stack>
  );
}
