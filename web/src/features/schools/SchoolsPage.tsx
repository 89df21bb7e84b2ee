// The schools of watering: what each argues, where it goes wrong, and what each would have made of the site's own last year.
import { Button, Modal, NativeSelect, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api";
import { dated } from "../../time";
import { useUnits } from "../../units";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { catalogueQuery, siteQuery, zonesQuery } from "../site/queries";
import { comparisonQuery } from "./queries";
import { SchoolForm } from "./SchoolForm";
import classes from "./Schools.module.css";
import { type Kind, SCHOOLS } from "./words";

type Under = Schemas["UnderSchool"];

export function SchoolsPage() {
  const { site } = useParams({ from: "/site/$site" });
  const view = useQuery(siteQuery(site));
  const zones = useQuery(zonesQuery(site));
  const catalogue = useQuery(catalogueQuery);
  const compared = useQuery(comparisonQuery(site));
  const { manage } = useRights(site);
  const [chosen, setChosen] = useState<string>();
  const [setting, setSetting] = useState<Kind>();
  const error = view.error ?? zones.error ?? catalogue.error ?? compared.error;
  if (error) return <Failed message={error.message} retry={() => compared.refetch()} />;
  if (!view.data || !zones.data || !catalogue.data || !compared.data)
    return <Loading what="the schools, a year each" />;
  const found = compared.data.zones.find((z) => z.zone === chosen) ?? compared.data.zones[0];
  if (!found) return <Failed message="There is no established zone to compare on." />;
  const zone = zones.data.find((z) => String(z.id) === found.zone);
  return (
    <main className={classes.page}>
      <p className={classes.trail}>
        <Link to="/site/$site/settings" params={{ site }}>
          Zones
        </Link>
      </p>
      <h1>Schools of watering</h1>
      <div className={classes.head}>
        <Text className="quiet">
          The same weather under each, {dated(compared.data.from)} to {dated(compared.data.to)}, all zones by the same
          school, each morning without a forecast. All agree: deep and seldom, no daily sprinkle.
        </Text>
        <NativeSelect
          label="Zone"
          value={found.zone}
          data={compared.data.zones.map((z) => ({ value: z.zone, label: z.name }))}
          onChange={(e) => setChosen(e.currentTarget.value)}
        />
      </div>
      <Table
        schools={found.schools}
        own={found.own.kind}
        {...(manage && zone ? { onSet: setSetting } : {})}
        name={found.name}
      />
      <Modal
        opened={setting !== undefined}
        onClose={() => setSetting(undefined)}
        title={setting && `${found.name}: ${SCHOOLS[setting].name.toLowerCase()}`}
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {setting && zone && (
          <SchoolForm
            site={site}
            zone={zone}
            kind={setting}
            catalogue={catalogue.data}
            today={view.data.today}
            onDone={() => setSetting(undefined)}
          />
        )}
      </Modal>
    </main>
  );
}

type TableProps = { schools: Under[]; own: Kind; onSet?: (kind: Kind) => void; name: string };

function Table({ schools, own, onSet, name }: TableProps) {
  const units = useUnits();
  const balance = schools.find((s) => s.school.kind === "water_balance");
  // Bars to one scale: the most water that any school puts into the soil.
  const most = Math.max(1, ...schools.map((s) => s.net_mm));
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
    <section className={classes.scroll} tabIndex={0} aria-label="Schools compared">
      <table className={classes.table}>
        <caption className="hidden">{name} under each school</caption>
        <thead>
          <tr>
            <th scope="col">School</th>
            <th scope="col" className={classes.figure}>
              Water, {units.label("volume")}
            </th>
            <th scope="col">Into the soil, {units.label("depth")}</th>
            <th scope="col" className={classes.figure}>
              Waterings
            </th>
            <th scope="col" className={classes.figure}>
              Days past limit
            </th>
            <th scope="col" className={classes.figure}>
              Need met
            </th>
            <th scope="col" className={classes.figure}>
              Drained, {units.label("depth")}
            </th>
            <th scope="col">
              <span className="hidden">Choose</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {schools.map((s) => {
            const { kind } = s.school;
            const words = SCHOOLS[kind];
            return (
              <tr key={kind} data-own={kind === own || undefined}>
                <th scope="row">
                  <strong>{words.name}</strong>
                  {kind === own && <span className="quiet"> · waters {name} now</span>}
                  <span className={classes.argues}>{words.argues}</span>
                  <span className={classes.wrong}>
                    <em>Goes wrong:</em> {words.wrong}
                  </span>
                  {balance && kind !== "water_balance" && (
                    <span className={classes.evidence}>{evidence(s, balance)}</span>
                  )}
                </th>
                <td className={classes.figure} data-label={`Water, ${units.label("volume")}`}>
                  {units.figure("volume", s.volume_l)}
                </td>
                <td data-label={`Into the soil, ${units.label("depth")}`}>
                  <svg className={classes.bar} viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
                    <rect width={(100 * s.net_mm) / most} height="10" />
                  </svg>
                  <span className="number">{units.figure("depth", s.net_mm)}</span>
                </td>
                <td className={classes.figure} data-label="Waterings">
                  {s.waterings}
                </td>
                <td className={classes.figure} data-label="Days past limit">
                  {s.dry_days}
                </td>
                <td className={classes.figure} data-label="Need met">
                  {s.adequacy_pct.toFixed(1)} %
                </td>
                <td className={classes.figure} data-label={`Drained, ${units.label("depth")}`}>
                  {units.figure("depth", s.drained_mm)}
                </td>
                <td>
                  {onSet && (
                    <Button
                      size="compact-sm"
                      variant="subtle"
                      aria-label={`${kind === own ? "Set" : "Water by"} ${words.name.toLowerCase()}`}
                      onClick={() => onSet(kind)}
                      disabled={kind === own && kind === "water_balance"}
                    >
                      {kind === own ? (kind === "water_balance" ? "In use" : "Set") : "Use"}
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

/** What the year says of a school, against the water balance. */
function evidence(s: Under, balance: Under): string {
  const share = balance.volume_l > 0 ? s.volume_l / balance.volume_l - 1 : 0;
  const water =
    Math.abs(share) < 0.02
      ? "Here: as much water as the balance"
      : `Here: ${Math.round(Math.abs(share) * 100)} % ${share > 0 ? "more" : "less"} water than the balance`;
  const need = (of: Under) => of.adequacy_pct.toFixed(1);
  const met =
    need(s) === need(balance)
      ? `the same ${need(s)} % of the need met`
      : `${need(s)} % of the need met against ${need(balance)} %`;
  return `${water}; ${met}.`;
}
