// A wet check: each zone on for two minutes, walked; what is wrong goes into the list of heads. What was walked is kept on this device until it is sent.
import { Button, Checkbox, Group, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { newKey } from "../../key";
import { dated, minutesSeconds } from "../../time";
import { MayRecord } from "../session/MayRecord";
import { Failed, failure, Loading, Refused } from "../shell/States";
import { zonesQuery } from "../site/queries";
import { NoteFault } from "./Heads";
import { headFaultsQuery, useWetCheck, wetChecksQuery } from "./queries";
import own from "./Sprinklers.module.css";
import { FAULTS } from "./words";

export function WetCheckPage() {
  const { site } = useParams({ from: "/site/$site/sprinklers/wet-check" });
  return (
    <MayRecord site={site} what="do a wet check">
      <WetCheck site={site} />
    </MayRecord>
  );
}

type Walk = { key: string; walked: number[]; rain: boolean; frost: boolean; note: string };

const begun = (): Walk => ({ key: newKey(), walked: [], rain: false, frost: false, note: "" });
const name = (site: string) => `fresh-meadow-wet-check-${site}`;

function kept(site: string): Walk {
  try {
    const walk: unknown = JSON.parse(localStorage.getItem(name(site)) ?? "null");
    return walk && typeof walk === "object" && "walked" in walk ? (walk as Walk) : begun();
  } catch {
    return begun();
  }
}

function WetCheck({ site }: { site: string }) {
  const zones = useQuery(zonesQuery(site));
  const checks = useQuery(wetChecksQuery(site));
  const faults = useQuery(headFaultsQuery(site));
  const [walk, setWalk] = useState(() => kept(site));
  const change = (part: Partial<Walk>) => {
    const next = { ...walk, ...part };
    localStorage.setItem(name(site), JSON.stringify(next));
    setWalk(next);
  };
  const done = useWetCheck(site, () => {
    localStorage.removeItem(name(site));
    setWalk(begun());
    notifications.show({ message: "The wet check is written down." });
  });
  const failed = failure(zones, checks, faults);
  if (failed) return <Failed message={failed.message} />;
  if (!zones.data || !checks.data || !faults.data) return <Loading what="the wet check" />;
  const living = zones.data.filter((z) => !z.zone.active_to && z.zone.regime !== "off");
  const walked = walk.walked.filter((id) => living.some((z) => z.id === id));
  const minutes = checks.data.minutes;
  return (
    <main className={own.wet}>
      <p>
        <Link to="/site/$site/sprinklers" params={{ site }} activeOptions={{ exact: true }}>
          All sprinklers
        </Link>
      </p>
      <h1>Wet check</h1>
      <Text>
        Turn each zone on for {minutes} minutes and walk it. Look for heads that spray the wrong way or over paving,
        leak, do not rise or turn, and for mist. Not in frost: spray freezes on paving.
      </Text>
      <ul className={own.wetZones} aria-label="Zones to walk">
        {living.map((z) => {
          const open = faults.data.filter((f) => f.zone === z.id && !f.mended_on);
          return (
            <li key={z.id}>
              <h2>{z.zone.name}</h2>
              {open.length > 0 && (
                <Text className="quiet">Noted: {open.map((f) => `head ${f.head} ${FAULTS[f.fault]}`).join(", ")}.</Text>
              )}
              <Group>
                <Countdown name={z.zone.name} minutes={minutes} />
                <Checkbox
                  size="md"
                  label={`${z.zone.name} walked`}
                  checked={walked.includes(z.id)}
                  onChange={(e) =>
                    change({
                      walked: e.currentTarget.checked ? [...walked, z.id] : walked.filter((id) => id !== z.id),
                    })
                  }
                />
              </Group>
              <details>
                <summary>Note a head of {z.zone.name}</summary>
                <NoteFault site={site} zone={z.id} name={z.zone.name} />
              </details>
            </li>
          );
        })}
      </ul>
      <Checkbox
        label="It ran in rain lately"
        checked={walk.rain}
        onChange={(e) => change({ rain: e.currentTarget.checked })}
      />
      <Checkbox
        mt="xs"
        label="It ran in frost"
        checked={walk.frost}
        onChange={(e) => change({ frost: e.currentTarget.checked })}
      />
      <TextInput
        mt="xs"
        label="What else was seen"
        maxLength={200}
        value={walk.note}
        onChange={(e) => change({ note: e.currentTarget.value })}
      />
      <Refused error={done.error} />
      <Button
        mt="sm"
        disabled={walked.length === 0}
        loading={done.isPending}
        onClick={() =>
          done.mutate({
            zones: walked,
            ran_in_rain: walk.rain,
            ran_in_frost: walk.frost,
            ...(walk.note.trim() ? { note: walk.note.trim() } : {}),
            idempotency_key: walk.key,
          })
        }
      >
        Write the wet check down
      </Button>
      {walked.length === 0 && <Text className="quiet">Mark the zones that you walked.</Text>}
      <h2>Before</h2>
      {checks.data.checks.length === 0 && <Text>None yet.</Text>}
      <ul>
        {checks.data.checks.map((c) => (
          <li key={c.id}>
            {dated(c.date)}
            {c.who && `, ${c.who}`}: {c.zones.length === 1 ? "one zone" : `${c.zones.length} zones`}
            {c.ran_in_rain && "; ran in rain"}
            {c.ran_in_frost && "; ran in frost"}
            {c.note && `; ${c.note}`}
          </li>
        ))}
      </ul>
    </main>
  );
}

/** Two minutes, by the page's own clock: it goes on while the phone sleeps. */
function Countdown({ name, minutes }: { name: string; minutes: number }) {
  const [ends, setEnds] = useState<number>();
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (ends === undefined) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [ends]);
  if (ends === undefined) {
    return (
      <Button
        variant="outline"
        aria-label={`Time ${name}`}
        onClick={() => {
          setNow(Date.now());
          setEnds(Date.now() + minutes * 60_000);
        }}
      >
        {minutes}:00
      </Button>
    );
  }
  const left = Math.ceil((ends - now) / 1000);
  return (
    <span className={own.wetTimer} role="timer">
      {left > 0 ? minutesSeconds(left) : "Over: turn it off"}
    </span>
  );
}
