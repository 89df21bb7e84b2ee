// The published week beside the newest plan: what differs, what each comes to, and putting the one or the other in force.
import { Button, Checkbox, Group, Modal } from "@mantine/core";
import { useState } from "react";
import type { Schemas, WeekPlan } from "../../api";
import { newKey } from "../../key";
import { longDay, minutes } from "../../time";
import { useUnits } from "../../units";
import { ChangesByZone } from "../morning/Changes";
import working from "../reasons/Working.module.css";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { ControllerState } from "./ControllerState";
import classes from "./Publishing.module.css";
import { type Publishing, useMornings, usePublish, useWithdraw } from "./queries";
import { publishedWords, standing } from "./words";

type Props = { site: string; plan: WeekPlan; number: number; publishing: Publishing };

export function PublishedWeek({ opened, onClose, ...shown }: Props & { opened: boolean; onClose: () => void }) {
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      size="lg"
      title="The published week"
      closeButtonProps={{ "aria-label": "Close the published week" }}
    >
      <Content {...shown} onDone={onClose} />
    </Modal>
  );
}

function Content({ site, plan, number, publishing, onDone }: Props & { onDone: () => void }) {
  const { manage } = useRights(site);
  const publish = usePublish(site);
  const withdraw = useWithdraw(site);
  const mornings = useMornings(site);
  const [key] = useState(newKey);
  const { published, since } = publishing;
  const is = standing(publishing, plan.today);
  const inForce = published && is !== "over";
  return (
    <div className={working.ledger}>
      <p className={working.plain}>
        {inForce
          ? `Published ${publishedWords(published, plan.time_zone)}, whatever newer plans say.`
          : "Nothing is in force but the newest plan, which changes each morning. A published week runs as it is for seven days; what changes meanwhile is shown here."}
      </p>
      {since && <Drains plan={plan} drains={since.drains} />}
      {inForce && (
        <section>
          <h3 className={working.heading}>What the newest plan changes of it</h3>
          {since && since.changes.length > 0 ? (
            <ChangesByZone plan={plan} changes={since.changes} />
          ) : (
            <p className={working.plain}>Nothing.</p>
          )}
        </section>
      )}
      {since && published && <Sums since={since} last={published.last_day} />}
      {publishing.controller && (
        <ControllerState
          site={site}
          controller={publishing.controller}
          published={Boolean(inForce)}
          timeZone={plan.time_zone}
        />
      )}
      <Refused error={publish.error ?? withdraw.error ?? mornings.error} />
      {manage && (
        <>
          <Group gap="xs">
            {is !== "same" && (
              <Button
                data-autofocus
                loading={publish.isPending}
                onClick={() => publish.mutate({ plan: number, idempotency_key: key }, { onSuccess: onDone })}
              >
                {is === "changed" ? "Publish the newest plan" : "Publish this week"}
              </Button>
            )}
            {inForce && (
              <Button variant="outline" loading={withdraw.isPending} onClick={() => withdraw.mutate(published.id)}>
                Withdraw it
              </Button>
            )}
          </Group>
          <Checkbox
            label="Publish each morning by itself, with the day’s first plan"
            checked={publishing.each_morning}
            disabled={mornings.isPending}
            onChange={(e) => mornings.mutate(e.currentTarget.checked)}
          />
        </>
      )}
      {!manage && publishing.each_morning && (
        <p className={working.plain}>It is published each morning by itself, with the day’s first plan.</p>
      )}
    </div>
  );
}

function Drains({ plan, drains }: { plan: WeekPlan; drains: Schemas["PublishedDrains"][] }) {
  const units = useUnits();
  const name = (zone: string) => plan.zones.find((z) => z.zone === zone)?.name ?? zone;
  return drains.map((d) => (
    <p key={`${d.zone}-${d.date}`} className={working.warning}>
      {name(d.zone)}, {longDay(d.date)}: {units.show("depth", d.drains_mm)} of the published watering would drain below
      the roots by now.
    </p>
  ));
}

function Sums({ since, last }: { since: Schemas["SincePublished"]; last: string }) {
  const units = useUnits();
  const { published, newest } = since;
  const rows = [
    ["Water", units.show("volume", published.volume_l), units.show("volume", newest.volume_l)],
    ["Minutes", minutes(published.run_s), minutes(newest.run_s)],
    ["Zones’ days too dry", String(published.days_too_dry), String(newest.days_too_dry)],
  ];
  return (
    <table className={`${working.lines} ${classes.sums}`} data-wide>
      <caption className="hidden">What each comes to</caption>
      <thead>
        <tr>
          <th scope="col">Up to {longDay(last)}, if no rain comes</th>
          <th scope="col">As published</th>
          <th scope="col">By the newest plan</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([what, was, is]) => (
          <tr key={what}>
            <th scope="row">{what}</th>
            <td className="number">{was}</td>
            <td className="number">{is}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
