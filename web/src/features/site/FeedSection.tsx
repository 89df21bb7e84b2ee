// The weather service: subscribe, how it fares, ask again.
import { Button, Group, NativeSelect, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { SiteView } from "../../api";
import { ago, clock, localDate, longDay } from "../../time";
import { useRights } from "../session/rights";
import { Failed, Loading, Refused } from "../shell/States";
import { feedQuery, useAskFeed, useConnectFeed, useDisconnectFeed } from "./queries";

export function FeedSection({ site, view }: { site: string; view: SiteView }) {
  const feed = useQuery(feedQuery(site));
  const { manage } = useRights(site);
  const connect = useConnectFeed(site);
  const disconnect = useDisconnectFeed(site);
  const ask = useAskFeed(site);
  const [wanted, setWanted] = useState("transition");
  if (feed.isPending) return <Loading what="the weather service" />;
  if (feed.error) return <Failed message={feed.error.message} retry={() => feed.refetch()} />;
  const { data } = feed;
  const name = data.climates.find((c) => c.key === data.climate)?.name ?? data.climate;
  const zone = view.site.time_zone;
  return (
    <Stack gap="sm">
      <h2>Weather service</h2>
      <Refused error={connect.error ?? disconnect.error ?? ask.error} />
      {!data.available && (
        <Text className="quiet">
          This server has no weather service: type the days, import a file, or let a station send them.
        </Text>
      )}
      {data.connected && (
        <Text>
          {data.name ?? `Simulated weather, climate: ${name}`}.{" "}
          {data.last_success_at
            ? `Last heard ${longDay(localDate(data.last_success_at, zone))}, ${clock(data.last_success_at, zone)} (${ago(data.last_success_at, view.now)}).`
            : "Never heard yet."}
        </Text>
      )}
      {data.connected && data.failures > 0 && (
        <Text role="alert">
          It failed {data.failures === 1 ? "once" : `${data.failures} times`} since: {data.last_error}. The plan goes on
          with what is here; it is asked again by itself.
        </Text>
      )}
      {manage && data.available && (
        <Group align="flex-end">
          {data.connected ? (
            <>
              <Button variant="outline" loading={ask.isPending} onClick={() => ask.mutate()}>
                Ask it now
              </Button>
              <Button variant="outline" loading={disconnect.isPending} onClick={() => disconnect.mutate()}>
                End the subscription
              </Button>
            </>
          ) : (
            <>
              {!data.name && (
                <NativeSelect
                  label="Climate (simulated)"
                  value={wanted}
                  data={data.climates.map((c) => ({ value: c.key, label: c.name }))}
                  onChange={(e) => setWanted(e.currentTarget.value)}
                />
              )}
              <Button loading={connect.isPending} onClick={() => connect.mutate(data.name ? null : wanted)}>
                {data.name ? `Subscribe to ${data.name}` : "Subscribe"}
              </Button>
            </>
          )}
        </Group>
      )}
    </Stack>
  );
}
