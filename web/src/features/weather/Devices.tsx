// Devices that send the weather: their tokens, made and revoked.
import { Button, CopyButton, Group, Stack, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { dayMonth, moment } from "../../time";
import { Refused } from "../shell/States";
import { devicesQuery, useAddDevice, useRevokeDevice } from "./queries";

export function Devices({ site, timeZone }: { site: string; timeZone: string }) {
  const devices = useQuery(devicesQuery(site));
  const add = useAddDevice(site);
  const revoke = useRevokeDevice(site);
  const [name, setName] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate(name, { onSuccess: () => setName("") });
  };
  return (
    <section>
      <Stack gap="sm">
        <h2>Stations that send</h2>
        <Text className="quiet">
          A weather station, or a few lines of a script, may send each day’s figures with a token of its own. The token
          can tell weather and what a flow meter counts, and nothing else.
        </Text>
        <Refused error={devices.error ?? add.error ?? revoke.error} />
        {(devices.data ?? []).map((device) => (
          <Group key={device.id} justify="space-between" wrap="nowrap">
            <span>
              <strong>{device.name}</strong>{" "}
              <span className="quiet">
                made {dayMonth(device.made_at.slice(0, 10))} by {device.made_by ?? "somebody who is gone"};{" "}
                {device.last_used_at ? `last sent ${moment(device.last_used_at, timeZone)}` : "has sent nothing yet"}
              </span>
            </span>
            <Button
              size="xs"
              variant="subtle"
              onClick={() => revoke.mutate(device.id)}
              aria-label={`Revoke ${device.name}`}
            >
              Revoke
            </Button>
          </Group>
        ))}
        {add.data && (
          <div role="status">
            <Text>
              Its token, shown this once: <code style={{ overflowWrap: "anywhere" }}>{add.data.token}</code>
            </Text>
            <CopyButton value={example(site, add.data.token)}>
              {({ copied, copy }) => (
                <Button size="xs" variant="outline" mt="xs" onClick={copy}>
                  {copied ? "Copied" : "Copy a line that sends a day"}
                </Button>
              )}
            </CopyButton>
          </div>
        )}
        <form onSubmit={submit}>
          <Group align="flex-end">
            <TextInput
              label="Name of the station"
              value={name}
              required
              onChange={(e) => setName(e.currentTarget.value)}
            />
            <Button type="submit" variant="outline" loading={add.isPending}>
              Make a token
            </Button>
          </Group>
        </form>
      </Stack>
    </section>
  );
}

/** As docs/formats/push.md has it. */
const example = (site: string, token: string) =>
  `curl -H 'Authorization: Bearer ${token}' -H 'Content-Type: text/csv' --data-binary @yesterday.csv ${window.location.origin}/api/v1/sites/${site}/weather-days`;
