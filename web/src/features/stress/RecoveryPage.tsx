// After a drought: what is done when while a lawn wakes, which patches live, and what closes the dead ones by when.
import { Button, Modal, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import { dated, longDay, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { grassName } from "../reasons/words";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { BackToStress } from "./BackToStress";
import { LookAtPatch } from "./LookAtPatch";
import { Patch } from "./Patch";
import { type RecoveryView, recoveryQuery, type ZoneRecovery } from "./queries";
import classes from "./Recovery.module.css";
import { RepairList } from "./RepairList";
import { STEPS_OF_RECOVERY, stepWords } from "./recoveryWords";
import { REGIME } from "./words";

export function RecoveryPage() {
  const { site } = useParams({ from: "/site/$site/stress/recovery" });
  const recovery = useQuery(recoveryQuery(site));
  if (recovery.error) return <Failed message={recovery.error.message} retry={() => recovery.refetch()} />;
  if (!recovery.data) return <Loading what="recovery" />;
  return (
    <main className={classes.page}>
      <BackToStress site={site} />
      <h1>Recovery and repair</h1>
      <Zones site={site} view={recovery.data} />
      <Text className={classes.cautions}>
        Labels are law: they say how long to wait between a spray and seed, and keep people and pets off until it is
        dry. Local rules decide on feeding and watering. Call before you dig.
      </Text>
    </main>
  );
}

function Zones({ site, view }: { site: string; view: RecoveryView }) {
  const { record } = useRights(site);
  const [noting, setNoting] = useState(false);
  const shown = view.zones.filter((z) => z.regime === "recovering" || z.patches.length > 0);
  return (
    <>
      <Text>
        {shown.length === 0
          ? "No zone wakes from a drought, and no patch is noted."
          : "Brown is not dead: what sleeps turns green within weeks of mild weather. Judge it then, patch by patch."}
      </Text>
      {record && (
        <Button size="md" variant="outline" my="xs" onClick={() => setNoting(true)}>
          Note a patch
        </Button>
      )}
      <RepairList view={view} />
      <ul className={classes.zones}>
        {shown.map((zone) => (
          <Zone key={zone.zone} site={site} zone={zone} today={view.today} />
        ))}
      </ul>
      <Modal
        opened={noting}
        onClose={() => setNoting(false)}
        title="A patch that stays brown"
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {noting && <LookAtPatch site={site} zones={view.zones} onDone={() => setNoting(false)} />}
      </Modal>
    </>
  );
}

function Zone({ site, zone, today }: { site: string; zone: ZoneRecovery; today: string }) {
  const units = useUnits();
  const { recovery } = zone;
  return (
    <li className={classes.zone} aria-label={zone.name}>
      <h2>{zone.name}</h2>
      <p className="quiet">
        {sentenceCase(grassName(zone.grass))}, {REGIME[zone.regime]}
        {recovery ? `; woken on ${dated(recovery.since)}, ${recovery.mild_days} mild days since` : ""}
      </p>
      {zone.regime === "recovering" && recovery && (
        <ol className={classes.steps}>
          {recovery.steps.map((step) => (
            <li key={step.step} data-when={step.when}>
              <strong>{STEPS_OF_RECOVERY[step.step]}</strong> {stepWords(step, recovery, today)}
            </li>
          ))}
        </ol>
      )}
      {zone.regime === "recovering" && zone.sow_unjudged_by && (
        <p>
          <strong>Its last day of sowing, {longDay(zone.sow_unjudged_by)}, comes before that:</strong> sow what shows no
          green by then, without waiting.
        </p>
      )}
      {zone.patches.length > 0 && (
        <ul className={classes.patches}>
          {zone.patches.map((patch) => (
            <Patch key={patch.id} site={site} zone={zone} patch={patch} today={today} units={units} />
          ))}
        </ul>
      )}
    </li>
  );
}
