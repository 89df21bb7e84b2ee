// Not on these days: a zone kept dry for a match, or because something was just sprayed. Each day comes back by itself.
import { Chip, Group, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { ZonePlan } from "../../api";
import { addDays, shortDay } from "../../time";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import { dryDaysQuery, useDryDay } from "./queries";
import classes from "./Working.module.css";

const DAYS = 7;

export function DryDays({ site, zone, today }: { site: string; zone: ZonePlan; today: string }) {
  const { record } = useRights(site);
  const dry = useQuery(dryDaysQuery(site));
  const set = useDryDay(site);
  const [note, setNote] = useState("");
  const of = (dry.data ?? []).filter((d) => String(d.zone) === zone.zone);
  const days = Array.from({ length: DAYS }, (_, i) => addDays(today, i));
  const later = of.filter((d) => !days.includes(d.date));
  if (!record && of.length === 0) return null;
  return (
    <section className={classes.dry}>
      <h3 className={classes.heading}>Not on these days</h3>
      <Text size="sm" className="quiet">
        A match, or something just sprayed: the zone stays dry on the days marked, and comes back by itself.
      </Text>
      {record ? (
        <>
          <Group gap="xs" my="xs">
            {days.map((date) => (
              <Chip
                key={date}
                size="md"
                checked={of.some((d) => d.date === date)}
                disabled={set.isPending}
                onChange={(kept) => set.mutate({ zone: Number(zone.zone), date, kept, note })}
              >
                {shortDay(date)}
              </Chip>
            ))}
          </Group>
          <TextInput
            label="Why (before you mark a day)"
            placeholder="a match"
            maxLength={200}
            value={note}
            onChange={(e) => setNote(e.currentTarget.value)}
          />
        </>
      ) : null}
      <Refused error={set.error ?? dry.error} />
      <ul className={classes.list}>
        {[...of.filter((d) => d.note || !record), ...later.filter((d) => !d.note && record)].map((d) => (
          <li key={d.date}>
            {shortDay(d.date)}
            {d.note ? `: ${d.note}` : ""}
            {d.who ? ` (${d.who})` : ""}
          </li>
        ))}
      </ul>
    </section>
  );
}
