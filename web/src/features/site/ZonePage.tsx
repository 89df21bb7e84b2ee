// A zone as a page: the figures that plans use, where they come from, what would sharpen them; and the form to change it.
import { Tabs, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { testsQuery } from "../sprinklers/queries";
import { MinutesGive } from "./MinutesGive";
import { measuredOf } from "./measured";
import { catalogueQuery, siteQuery, zonesQuery } from "./queries";
import classes from "./SitePage.module.css";
import { ZoneFacts } from "./ZoneFacts";
import { ZoneForm } from "./ZoneForm";

/** What the pages of a zone need, or what they show instead. */
function useZonePage(site: string) {
  const view = useQuery(siteQuery(site));
  const zones = useQuery(zonesQuery(site));
  const catalogue = useQuery(catalogueQuery);
  const tests = useQuery(testsQuery(site));
  const failed = view.error ?? zones.error ?? catalogue.error ?? tests.error;
  if (failed) return { instead: <Failed message={failed.message} retry={() => zones.refetch()} /> };
  if (!view.data || !zones.data || !catalogue.data || !tests.data) return { instead: <Loading what="the zone" /> };
  return { page: { view: view.data, zones: zones.data, catalogue: catalogue.data, tests: tests.data } };
}

export function ZonePage() {
  const { site, zone } = useParams({ from: "/site/$site/zones/$zone" });
  const { manage } = useRights(site);
  const [tab, setTab] = useState("facts");
  const { page, instead } = useZonePage(site);
  if (!page) return instead;
  const found = page.zones.find((z) => String(z.id) === zone);
  if (!found) return <Failed message="There is no such zone here." />;
  const named = (entries: { key: string; name: string }[], key: string) => entries.find((e) => e.key === key)?.name;
  const { catalogue } = page;
  return (
    <main className={classes.page}>
      <p className={classes.trail}>
        <Link to="/site/$site/settings" params={{ site }}>
          Zones
        </Link>
      </p>
      <h1>{found.zone.name}</h1>
      <Text className="quiet" mb="md">
        {found.zone.plants === "trees" ? "Trees" : named(catalogue.grasses, found.zone.grass)} on{" "}
        {named(catalogue.soils, found.zone.soil)?.toLowerCase()},{" "}
        {named(catalogue.sprinklers, found.zone.sprinkler)?.toLowerCase()}
      </Text>
      <Tabs value={tab} onChange={(next) => setTab(next ?? "facts")} keepMounted={false}>
        <Tabs.List mb="md">
          <Tabs.Tab value="facts">What the plan uses</Tabs.Tab>
          <Tabs.Tab value="minutes">What minutes give</Tabs.Tab>
          {manage && <Tabs.Tab value="change">Change it</Tabs.Tab>}
        </Tabs.List>
        <Tabs.Panel value="facts">
          <Text className="quiet" mb="sm">
            Each figure with the least and the greatest that it plausibly is. The wider, the more a measurement would
            tell.
          </Text>
          <ZoneFacts site={site} zone={found.id} />
        </Tabs.Panel>
        <Tabs.Panel value="minutes">
          <MinutesGive site={site} zone={found} />
        </Tabs.Panel>
        <Tabs.Panel value="change">
          <ZoneForm
            site={site}
            today={page.view.today}
            catalogue={catalogue}
            existing={found}
            tests={measuredOf(found, page.tests)}
            onDone={() => setTab("facts")}
          />
        </Tabs.Panel>
      </Tabs>
    </main>
  );
}

/** All figures of a new zone on one form, for who knows them. */
export function NewZonePage() {
  const { site } = useParams({ from: "/site/$site" });
  const navigate = useNavigate();
  const { page, instead } = useZonePage(site);
  if (!page) return instead;
  return (
    <main className={classes.page}>
      <h1>Add a zone</h1>
      <ZoneForm
        site={site}
        today={page.view.today}
        catalogue={page.catalogue}
        tests={{}}
        onDone={() => navigate({ to: "/site/$site/settings", params: { site } })}
      />
    </main>
  );
}
