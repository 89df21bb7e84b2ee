import { Tabs } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { ForecastPanel } from "../forecasts/ForecastPanel";
import { HistoryPanel } from "../people/HistoryPanel";
import { PeoplePanel } from "../people/PeoplePanel";
import { RulesPanel } from "../rules/RulesPanel";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { FilesPanel } from "./FilesPanel";
import { PlaceFacts } from "./PlaceFacts";
import { PlacePanel } from "./PlacePanel";
import { siteQuery } from "./queries";
import classes from "./SitePage.module.css";
import type { Tab } from "./tabs";
import { WeatherPanel } from "./WeatherPanel";
import { ZonesPanel } from "./ZonesPanel";

export function SitePage() {
  const { site } = useParams({ from: "/site/$site" });
  const { tab = "zones" } = useSearch({ from: "/site/$site/settings" });
  const navigate = useNavigate();
  const view = useQuery(siteQuery(site));
  const rights = useRights(site);
  if (view.isPending) return <Loading what="the site" />;
  if (view.error) return <Failed message={view.error.message} retry={() => view.refetch()} />;
  return (
    <main className={classes.page}>
      <h1>{view.data.site.name}</h1>
      <Tabs
        value={tab}
        onChange={(next) =>
          navigate({ to: "/site/$site/settings", params: { site }, search: { tab: (next as Tab) ?? "zones" } })
        }
        keepMounted={false}
      >
        <Tabs.List mb="md">
          <Tabs.Tab value="zones">Zones</Tabs.Tab>
          <Tabs.Tab value="place">Place and hours</Tabs.Tab>
          <Tabs.Tab value="rules">Rules</Tabs.Tab>
          <Tabs.Tab value="weather">Weather</Tabs.Tab>
          <Tabs.Tab value="forecasts">Forecasts</Tabs.Tab>
          <Tabs.Tab value="people">People</Tabs.Tab>
          <Tabs.Tab value="history">History</Tabs.Tab>
          <Tabs.Tab value="files">Files</Tabs.Tab>
        </Tabs.List>
        <Tabs.Panel value="zones">
          <ZonesPanel site={site} today={view.data.today} />
        </Tabs.Panel>
        <Tabs.Panel value="place">
          {rights.manage ? (
            <PlacePanel key={view.data.version} site={site} view={view.data} />
          ) : (
            <PlaceFacts view={view.data} />
          )}
        </Tabs.Panel>
        <Tabs.Panel value="rules">
          <RulesPanel key={view.data.version} site={site} view={view.data} />
        </Tabs.Panel>
        <Tabs.Panel value="weather">
          <WeatherPanel site={site} view={view.data} />
        </Tabs.Panel>
        <Tabs.Panel value="forecasts">
          <ForecastPanel site={site} />
        </Tabs.Panel>
        <Tabs.Panel value="people">
          <PeoplePanel site={site} />
        </Tabs.Panel>
        <Tabs.Panel value="history">
          <HistoryPanel site={site} timeZone={view.data.site.time_zone} />
        </Tabs.Panel>
        <Tabs.Panel value="files">
          <FilesPanel site={site} />
        </Tabs.Panel>
      </Tabs>
    </main>
  );
}
