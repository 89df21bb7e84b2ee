// A finished test waits on this phone until the server has it.
import { Button, Text } from "@mantine/core";
import { useEffect } from "react";
import type { ApiFailure, Schemas } from "../../api";
import { Sure, useSure } from "../forms/Sure";
import { type Draft, readCount } from "./draft";
import { useAddTest, withCans } from "./queries";
import classes from "./Sprinklers.module.css";

type Props = {
  site: string;
  zone: number;
  name: string;
  draft: Draft;
  onSent: (added: Schemas["Added"]) => void;
  onBack: () => void;
};

export function Sending({ site, zone, name, draft, onSent, onBack }: Props) {
  const add = useAddTest(site, zone);
  const ask = useSure();
  const { test, key } = draft;
  const send = () =>
    ask.unlessUnlikely((sure) => add.mutateAsync({ test: withCans(test), sure, idempotency_key: key }).then(onSent));
  // biome-ignore lint/correctness/useExhaustiveDependencies: sent when it is finished and whenever the connection returns
  useEffect(() => {
    send();
    window.addEventListener("online", send);
    return () => window.removeEventListener("online", send);
  }, [key]);
  return (
    <main className={classes.narrow}>
      <h1>{name}: sending</h1>
      <Text role="status">
        {readCount(test)} of {test.cans.length} saved on this phone, sent when connected.
      </Text>
      {(ask.error as ApiFailure | null)?.status !== 0 && <Sure ask={ask} timeZone="UTC" />}
      <Button loading={add.isPending} onClick={send}>
        Send now
      </Button>
      <Button variant="outline" onClick={onBack}>
        Back to the readings
      </Button>
    </main>
  );
}
