// "Really?", once: a figure that can be but seldom is, is asked about before it is written.
import { Alert, Button, Group, Text } from "@mantine/core";
import { useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { clock, minutes, moment } from "../../time";
import { type Units, useUnits } from "../../units";
import { Refused } from "../shell/States";

type Unlikely = Schemas["Unlikely"];
type Send = (sure: boolean) => Promise<unknown>;

export type Ask = {
  /** Sends; what the server asks about waits for an answer, other failures are shown. */
  unlessUnlikely: (send: Send) => void;
  asked: Unlikely | undefined;
  error: Error | null;
  sure: () => void;
  notSure: () => void;
};

export function useSure(): Ask {
  const [asked, setAsked] = useState<{ what: Unlikely; send: Send }>();
  const [error, setError] = useState<Error | null>(null);
  const send = (what: Send, sure: boolean) => {
    setAsked(undefined);
    setError(null);
    what(sure).catch((failure: Error) => {
      const unlikely = failure instanceof ApiFailure ? failure.problem?.unlikely : undefined;
      if (unlikely) setAsked({ what: unlikely, send: what });
      else setError(failure);
    });
  };
  return {
    unlessUnlikely: (what) => send(what, false),
    asked: asked?.what,
    error,
    sure: () => asked && send(asked.send, true),
    notSure: () => setAsked(undefined),
  };
}

const heardWords = (register: number | null | undefined) =>
  register == null ? "" : ` By the flow that was heard the dial shows about ${register}.`;

/** What is odd, in words. */
export function unlikelyWords(u: Unlikely, timeZone: string, units: Units): string {
  switch (u.unlikely) {
    case "ends_later":
      return `That run would end ${moment(u.ends_at, timeZone)}, which is still to come.`;
    case "beyond_window":
      return `The window closes at ${clock(u.closes_at, timeZone)}; that run goes on after it.`;
    case "freezes":
      return `At ${units.show("temperature", u.tmin_c)} water on paving turns to ice, and people slip on it.`;
    case "long_run":
      return `${minutes(u.seconds)} is a very long run.`;
    case "much_rain":
      return `${units.show("depth", u.rain_mm)} is very much rain for one day.`;
    case "seldom_temperature":
      return `${units.show("temperature", u.temperature_c)} is next to nowhere on earth: is it in ${units.label("temperature")}?`;
    case "other_head":
      return u.heads == null
        ? `Head ${u.head} is a high number for one zone.`
        : `The plan of the zone shows ${u.heads} heads; ${u.head} is not among them.`;
    case "odd_can":
      return `Can ${u.can} caught ${u.times.toFixed(0)} times what the others did.`;
    case "lower_reading":
      return `It showed ${u.last} on ${moment(u.last_at, timeZone)}: a counter does not go back.${heardWords(u.heard_register)}`;
    case "above_next_reading":
      return `It showed ${u.next} later, on ${moment(u.next_at, timeZone)}: a counter does not go back.`;
    case "much_used":
      return `That would be ${units.show("volume", u.used_l)} since the last reading, where about ${units.show("volume", u.expected_l)} is to be expected.`;
    case "other_than_heard":
      return `That would be ${units.show("volume", u.used_l)} since the last reading; ${units.show("volume", u.heard_l)} were heard.${heardWords(u.heard_register)}`;
    case "same_reading":
      return u.expected_l > 0
        ? `The same as on ${moment(u.last_at, timeZone)}, though about ${units.show("volume", u.expected_l)} should have flowed.`
        : `The same as on ${moment(u.last_at, timeZone)}: is it written twice?`;
    case "twice_that_night":
      return "The clock was set back that night and showed this hour twice.";
  }
}

export function Sure({ ask, timeZone }: { ask: Ask; timeZone: string }) {
  const units = useUnits();
  if (!ask.asked) return <Refused error={ask.error} />;
  return (
    <Alert color="straw" variant="outline" role="alert" title="Really?">
      <Text mb="xs">{unlikelyWords(ask.asked, timeZone, units)}</Text>
      <Group gap="xs">
        <Button size="sm" onClick={ask.sure}>
          Yes, it is so
        </Button>
        <Button size="sm" variant="outline" onClick={ask.notSure}>
          No, change it
        </Button>
      </Group>
    </Alert>
  );
}
