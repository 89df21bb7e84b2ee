// How it went: seedlings counted in a frame, what that tells, and what is sown again.
import { Alert, Button, Group, Modal, Text, TextInput } from "@mantine/core";
import { useState } from "react";
import { newKey } from "../../key";
import { parse } from "../../numbers";
import { dayMonth, longDay } from "../../time";
import { useUnits } from "../../units";
import { useRights } from "../session/rights";
import classes from "./NewGrass.module.css";
import { type NewGrassZone, useCountStand, useNoteGrown, useUndoCount } from "./queries";
import { STAND } from "./words";

type Props = { site: string; zone: NewGrassZone; today: string };

export function StandCount({ site, zone, today }: Props) {
  const { record } = useRights(site);
  const units = useUnits();
  const undo = useUndoCount(site);
  const [counting, setCounting] = useState(false);
  const told = zone.stand?.stand;
  const us = units.system === "us";
  // Of a square of ten centimetres a side, or of four inches.
  const count = (dm2: number) => Math.round(us ? dm2 * 1.016 ** 2 : dm2);
  return (
    <section aria-label="How it went" className={classes.stand}>
      <h3>How it went</h3>
      {told ? (
        <>
          <p>
            <strong>{told.verdict ? STAND[told.verdict] : "Counted."}</strong> {count(told.per_dm2)} on a square of{" "}
            {us ? "4 in" : "10 cm"}
            {told.good_dm2 ? `; a good stand has about ${count(told.good_dm2)}, half of the seed` : ""}. Counted in{" "}
            {told.count.counts.length} places on {dayMonth(told.count.date)}
            {zone.stand?.who ? ` by ${zone.stand.who}` : ""}.
          </p>
          {told.again_m2 > 0 && (
            <p>
              <strong>Sow again {units.show("patch", told.again_m2)}</strong>
              {told.bare_share > 0 ? `: ${Math.round(told.bare_share * 100)} % of the places were bare` : ""}
              {told.seed_kg ? `; ${units.show("seed", told.seed_kg)} of seed` : ""}. {againWords(told.sow, zone, today)}
            </p>
          )}
          {record && (
            <Button
              size="sm"
              variant="subtle"
              loading={undo.isPending}
              onClick={() => zone.stand && undo.mutate(zone.stand.id)}
            >
              Take the count back
            </Button>
          )}
        </>
      ) : (
        <p>
          Two to three weeks after it came up lay a small frame down in at least three places, and count the seedlings
          in it: that tells a good stand from a thin one, and what to sow again while there is time.
        </p>
      )}
      {record && (
        <Button size="sm" variant="outline" onClick={() => setCounting(true)}>
          Count seedlings
        </Button>
      )}
      <Modal
        opened={counting}
        onClose={() => setCounting(false)}
        title={`Seedlings in ${zone.name}`}
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {counting && <CountForm site={site} zone={zone} onDone={() => setCounting(false)} />}
      </Modal>
    </section>
  );
}

function againWords(
  sow: NonNullable<NewGrassZone["stand"]>["stand"]["sow"],
  zone: NewGrassZone,
  today: string,
): string {
  const last = zone.sow_by?.sow_by === "day" ? zone.sow_by.date : undefined;
  switch (sow?.sow) {
    case "spray_first":
    case "now":
      return last ? `Its window shuts on ${longDay(last)}${last <= today ? "" : ": sow before that"}.` : "";
    case "too_late":
      return "Its window is shut this year: in spring, or with sod.";
    case "no_frost":
      return "No hard frost on record shuts its window.";
    default:
      return "No past autumn on record tells until when: ask locally.";
  }
}

function CountForm({ site, zone, onDone }: { site: string; zone: NewGrassZone; onDone: () => void }) {
  const units = useUnits();
  const us = units.system === "us";
  const [frame, setFrame] = useState(us ? "4" : "10");
  const [counts, setCounts] = useState("");
  const [key] = useState(newKey);
  const [asked, setAsked] = useState(false);
  const add = useCountStand(site, zone.zone, onDone);
  const side = parse(frame);
  const mm = side === undefined ? undefined : Math.round(side * (us ? 25.4 : 10));
  const typed = counts.split(/[\s,;]+/).filter((x) => x !== "");
  const numbers = typed.map(parse);
  const bad = typed.find((_, i) => {
    const n = numbers[i];
    return n === undefined || n < 0 || n > 5000 || !Number.isInteger(n);
  });
  const problems = {
    frame: mm === undefined || mm < 20 || mm > 1000 ? `Between ${us ? "1 and 39 in" : "2 and 100 cm"}.` : undefined,
    counts:
      bad !== undefined
        ? `“${bad}” is no count of seedlings.`
        : typed.length < 3 || typed.length > 50
          ? "Count in 3 to 50 places: 40, 55, 38"
          : undefined,
  };
  const grown = useNoteGrown(site, zone.zone);
  const [sure, setSure] = useState(false);
  const holds = !problems.frame && !problems.counts && mm !== undefined;
  // Seedlings where nothing is up by what was said: one of the two is not so.
  const contradicts = holds && zone.stages?.stage === "not_up" && numbers.some((n) => n !== undefined && n > 0);
  const keep = () => {
    if (holds) add.mutate({ frame_mm: mm, counts: numbers as number[], idempotency_key: key });
  };
  const send = () => {
    setAsked(true);
    if (contradicts && !sure) setSure(true);
    else keep();
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        send();
      }}
    >
      <TextInput
        label={`Side of the square frame, ${us ? "in" : "cm"}`}
        inputMode="decimal"
        value={frame}
        onChange={(e) => setFrame(e.currentTarget.value)}
        error={asked && problems.frame}
      />
      <TextInput
        label="Seedlings in each place"
        description="One number for each place where it lay, with commas between; where nothing grows, 0"
        inputMode="text"
        value={counts}
        onChange={(e) => setCounts(e.currentTarget.value)}
        error={(asked && problems.counts) || add.error?.message}
        mt="xs"
      />
      {contradicts && sure ? (
        <Alert color="straw" variant="outline" role="alert" title="Are first blades up?" mt="md">
          <Text mb="xs">By what was said so far nothing is up yet.</Text>
          <Group gap="xs">
            <Button
              size="sm"
              loading={grown.isPending || add.isPending}
              onClick={() => grown.mutate("first_blades", { onSuccess: keep })}
            >
              Yes: note that, and keep the count
            </Button>
            <Button size="sm" variant="outline" loading={add.isPending} onClick={keep}>
              No: keep the count alone
            </Button>
          </Group>
        </Alert>
      ) : (
        <Group mt="md">
          <Button type="submit" size="md" loading={add.isPending}>
            Keep the count
          </Button>
        </Group>
      )}
    </form>
  );
}
