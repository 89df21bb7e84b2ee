import { Button, Group, Modal, Stack, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import type { Catalogue, ZoneView } from "../../api";
import { dayMonth } from "../../time";
import { useUnits } from "../../units";
import { SCHOOLS } from "../schools/words";
import { useRights } from "../session/rights";
import { Empty, Failed, Loading, Refused } from "../shell/States";
import { type TestView, testsQuery } from "../sprinklers/queries";
import { measuredOf } from "./measured";
import { catalogueQuery, useEndZone, zonesQuery } from "./queries";
import classes from "./SitePage.module.css";

export function ZonesPanel({ site, today }: { site: string; today: string }) {
  const zones = useQuery(zonesQuery(site));
  const catalogue = useQuery(catalogueQuery);
  const tests = useQuery(testsQuery(site));
  const units = useUnits();
  const { manage } = useRights(site);
  const [ending, setEnding] = useState<ZoneView>();
  if (zones.isPending || catalogue.isPending || tests.isPending) return <Loading what="the zones" />;
  const failed = zones.error ?? catalogue.error ?? tests.error;
  if (failed || !zones.data || !catalogue.data) {
    return <Failed message={failed?.message ?? ""} retry={() => zones.refetch()} />;
  }
  const name = (key: string) =>
    [...catalogue.data.grasses, ...catalogue.data.soils, ...catalogue.data.sprinklers].find((e) => e.key === key)
      ?.name ?? key;
  const kind = (key: string) => catalogue.data.sprinklers.find((s) => s.key === key);
  return (
    <>
      <Group justify="space-between" mb="sm">
        <Text className="quiet">What waters it and what grows there: each zone is planned by its own figures.</Text>
        <Group>
          <Link to="/site/$site/schools" params={{ site }}>
            Schools of watering
          </Link>
          {manage && (
            <Button component={Link} to={`/site/${site}/add-zone`}>
              Add a zone
            </Button>
          )}
        </Group>
      </Group>
      {zones.data.length === 0 ? (
        <Empty title="No zones yet">
          <Text>Add the first: a name, its area, grass, soil and sprinklers are enough to plan by.</Text>
        </Empty>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
        <section className={classes.scroll} tabIndex={0} aria-label="Zones of the site">
          <table className={classes.table}>
            <thead>
              <tr>
                <th scope="col">Zone</th>
                <th scope="col" className={classes.optional}>
                  Grass
                </th>
                <th scope="col" className={classes.optional}>
                  Soil
                </th>
                <th scope="col" className={classes.optional}>
                  Sprinklers
                </th>
                <th scope="col" className={classes.figure}>
                  Area, {units.label("area")}
                </th>
                <th scope="col" className={classes.optional}>
                  Rate
                </th>
                <th scope="col">
                  <span className="hidden">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {zones.data.map((row) => {
                const ended = row.zone.active_to != null && row.zone.active_to < today;
                return (
                  <tr key={row.id} className={ended ? classes.ended : undefined}>
                    <th scope="row">
                      <Link to="/site/$site/zones/$zone" params={{ site, zone: String(row.id) }}>
                        {row.zone.name}
                      </Link>
                      {row.zone.active_to && (
                        <span className="quiet">
                          {" "}
                          · {ended ? "ended" : "ends"} {dayMonth(row.zone.active_to)}
                        </span>
                      )}
                      {row.zone.regime === "seedbed" && <span className="quiet"> · new seed</span>}
                      {row.zone.regime === "dormant" && <span className="quiet"> · let go</span>}
                      {row.zone.regime === "recovering" && <span className="quiet"> · waking</span>}
                      {row.zone.school && row.zone.school.kind !== "water_balance" && (
                        <span className="quiet"> · {SCHOOLS[row.zone.school.kind].name.toLowerCase()}</span>
                      )}
                    </th>
                    <td className={classes.optional}>{row.zone.plants === "trees" ? "Trees" : name(row.zone.grass)}</td>
                    <td className={classes.optional}>{name(row.zone.soil)}</td>
                    <td className={classes.optional}>{name(row.zone.sprinkler)}</td>
                    <td className={classes.figure}>{units.figure("area", row.zone.area_m2)}</td>
                    <td className={classes.optional}>
                      <Rate zone={row} tests={tests.data ?? []} kind={kind(row.zone.sprinkler)} />
                    </td>
                    <td>
                      <div className={classes.actions}>
                        {manage && !row.zone.active_to && (
                          <Button
                            size="xs"
                            variant="subtle"
                            onClick={() => setEnding(row)}
                            aria-label={`End ${row.zone.name}`}
                          >
                            End
                          </Button>
                        )}
                      </div>
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </section>
      )}
      <Modal
        opened={ending !== undefined}
        onClose={() => setEnding(undefined)}
        title={`End ${ending?.zone.name ?? ""}`}
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {ending && <EndZone site={site} zone={ending} today={today} onDone={() => setEnding(undefined)} />}
      </Modal>
    </>
  );
}

/** The rate that plans use, and where it comes from. */
function Rate(props: { zone: ZoneView; tests: TestView[]; kind: Catalogue["sprinklers"][number] | undefined }) {
  const units = useUnits();
  const { rate } = measuredOf(props.zone, props.tests);
  const typed = props.zone.zone.rate_mm_h;
  if (rate)
    return (
      <>
        {units.show("rate", rate.value)} <span className="quiet">measured {dayMonth(rate.date)}</span>
      </>
    );
  if (typed)
    return (
      <>
        {units.show("rate", typed.value)} <span className="quiet">typed</span>
      </>
    );
  return (
    <>
      {units.show("rate", props.kind?.rate_mm_h[1] ?? 0)} <span className="quiet">handbook</span>
    </>
  );
}

function EndZone(props: { site: string; zone: ZoneView; today: string; onDone: () => void }) {
  const [lastDay, setLastDay] = useState(props.today);
  const end = useEndZone(props.site);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    end.mutate(
      { zone: props.zone, lastDay },
      {
        onSuccess: () => {
          notifications.show({ message: `${props.zone.zone.name} ends on ${dayMonth(lastDay)}.` });
          props.onDone();
        },
      },
    );
  };
  return (
    <form onSubmit={submit}>
      <Stack>
        <Text>Its records stay; it is not planned after its last day.</Text>
        <Refused error={end.error} />
        <TextInput
          label="Last day"
          type="date"
          required
          value={lastDay}
          onChange={(e) => setLastDay(e.currentTarget.value)}
        />
        <Button type="submit" loading={end.isPending}>
          End the zone
        </Button>
      </Stack>
    </form>
  );
}
