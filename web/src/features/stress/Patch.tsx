// A patch that stayed brown: what its looks say, a photo then and now, and what is done about it.
import { Anchor, Button, Group, Modal } from "@mantine/core";
import { useState } from "react";
import type { Shown } from "../../quantities";
import { dayMonth, sentenceCase, whenDay } from "../../time";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { LookAtPatch } from "./LookAtPatch";
import { type PatchView, patchPhoto, useSayOfPatch, type ZoneRecovery } from "./queries";
import classes from "./Recovery.module.css";
import { closingWords, PATCH_STATE } from "./recoveryWords";

type Props = { site: string; zone: ZoneRecovery; patch: PatchView; today: string; units: Shown };

export function Patch({ site, zone, patch, today, units }: Props) {
  const { record } = useRights(site);
  const [looking, setLooking] = useState(false);
  const say = useSayOfPatch(site, () => undefined);
  const of = `${patch.name}, ${zone.name}`;
  const photos = patch.looks.filter((look) => look.photo);
  const first = photos[0];
  const last = photos.length > 1 ? photos[photos.length - 1] : undefined;
  const button = (label: string, says: "repaired" | "open" | "mistaken") => (
    <Button
      size="md"
      variant={says === "repaired" ? "outline" : "subtle"}
      loading={say.isPending && say.variables?.says === says}
      aria-label={`${label}, ${of}`}
      onClick={() => say.mutate({ patch: patch.id, says })}
    >
      {label}
    </Button>
  );
  return (
    <li aria-label={of}>
      <div>
        <h3>
          {sentenceCase(patch.name)} <span className="quiet">{units.show("patch", patch.area_m2)}</span>
        </h3>
        <p>
          {patch.repaired_on ? (
            `Repaired on ${dayMonth(patch.repaired_on)}.`
          ) : (
            <>
              <strong>{sentenceCase(PATCH_STATE[patch.state])}</strong>
              {patch.seen_on ? `, seen ${whenDay(patch.seen_on, today)}` : ""}
              {patch.is_early && patch.state !== "alive" ? ": too early to be sure, look again" : ""}
              {patch.state === "loose" ? ": count grubs below it" : ""}
              {patch.repair ? `; ${closingWords(patch.repair, patch.area_m2, units)}` : ""}.
            </>
          )}
        </p>
        <Refused error={say.error} />
        {record && (
          <Group gap="xs">
            {patch.repaired_on ? (
              button("Open again", "open")
            ) : (
              <>
                <Button size="md" variant="outline" aria-label={`Look again, ${of}`} onClick={() => setLooking(true)}>
                  Look again
                </Button>
                {button("Repaired", "repaired")}
                {button("Noted by mistake", "mistaken")}
              </>
            )}
          </Group>
        )}
      </div>
      {first && (
        <div className={classes.photos}>
          {[
            { look: first, when: last ? "Then" : "Photo" },
            { look: last, when: "Now" },
          ].map(
            ({ look, when }) =>
              look && (
                <figure key={look.id}>
                  <Anchor href={patchPhoto(site, look.id)}>
                    <img src={patchPhoto(site, look.id)} alt={`${of}, ${dayMonth(look.date)}`} />
                  </Anchor>
                  <figcaption>
                    {when}: {dayMonth(look.date)}, {PATCH_STATE[look.state]}
                  </figcaption>
                </figure>
              ),
          )}
        </div>
      )}
      <Modal opened={looking} onClose={() => setLooking(false)} title={of} closeButtonProps={{ "aria-label": "Close" }}>
        {looking && <LookAtPatch site={site} patch={patch} onDone={() => setLooking(false)} />}
      </Modal>
    </li>
  );
}
