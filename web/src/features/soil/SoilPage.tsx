// The soil of a site: what is worth measuring, each zone's core and tests, what was seen.
import { Anchor, Button, Menu, NativeSelect, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { Catalogue, Schemas, SiteView, WeekPlan, ZoneView } from "../../api";
import { dated, dayMonth, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { PlanGate } from "../morning/PlanGate";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { catalogueQuery, zoneFactsQuery, zonesQuery } from "../site/queries";
import { photoAddress, type SoilTestView, seenQuery, soilTestsQuery, useSoilStanding, useUndoSeen } from "./queries";
import { ResultView } from "./ResultView";
import classes from "./Soil.module.css";
import { SoilCore } from "./SoilCore";
import { Triangle } from "./Triangle";
import { WorthList } from "./WorthList";
import { adviceWords, METHODS, REPELLENCY, seenWords, TESTS } from "./words";

export function SoilPage() {
  return <PlanGate what="the soil">{({ site, plan, view }) => <Soil site={site} plan={plan} view={view} />}</PlanGate>;
}

type Props = { site: string; plan: WeekPlan; view: SiteView };

function Soil({ site, plan, view }: Props) {
  const zones = useQuery(zonesQuery(site));
  const tests = useQuery(soilTestsQuery(site));
  const catalogue = useQuery(catalogueQuery);
  const { record } = useRights(site);
  const [all, setAll] = useState(false);
  const error = zones.error ?? tests.error ?? catalogue.error;
  if (!zones.data || !tests.data || !catalogue.data)
    return error ? <Failed message={error.message} /> : <Loading what="the soil" />;
  const soils = catalogue.data.soils;
  const shares = tests.data.filter((t) => t.counts && t.result.texture?.shares_pct);
  const points = shares.map((t) => {
    const [sand = 0, , clay = 0] = t.result.texture?.shares_pct ?? [];
    const texture = t.result.texture?.texture ?? "loam";
    const name = soils.find((s) => s.key === texture)?.name ?? "";
    return { sand, clay, texture, label: `${name}: ${zones.data.find((z) => z.id === t.zone)?.zone.name}` };
  });
  // All cores to one scale.
  const roots = plan.zones.map((z) => z.root_depth_mm);
  const deepest = Math.max(100, ...roots) * 1.2;
  const ended = (z: ZoneView) => z.zone.active_to != null && z.zone.active_to < view.today;
  const shown = zones.data.filter((z) => !ended(z));
  return (
    <main className={classes.page}>
      <h1>Soil</h1>
      <Text className="quiet">
        How much the ground holds decides the days, how fast it drinks decides the passes. What a test says of the
        ground counts for the days before it too.
      </Text>
      <div className={classes.two}>
        <section>
          <h2>Worth measuring next</h2>
          <WorthList plan={plan} view={view} site={site} most={all ? plan.worth_measuring.length : 3} record={record} />
          {plan.worth_measuring.length > 3 && (
            <Button variant="subtle" size="compact-sm" mt="xs" onClick={() => setAll(!all)}>
              {all ? "The first three" : `All ${plan.worth_measuring.length}`}
            </Button>
          )}
        </section>
        <ul className={`${classes.zones} ${classes.list}`} aria-label="Zones">
          {shown.map((z) => (
            <Zone
              key={z.id}
              site={site}
              zone={z}
              tests={tests.data.filter((t) => t.zone === z.id)}
              catalogue={catalogue.data}
              deepest={deepest}
            />
          ))}
        </ul>
        <aside aria-label="Textures, and what was seen">
          <h2>Textures measured here</h2>
          <Triangle soils={soils} points={points} />
          <Seen site={site} zones={zones.data} />
        </aside>
      </div>
    </main>
  );
}

type ZoneProps = { site: string; zone: ZoneView; tests: SoilTestView[]; catalogue: Catalogue; deepest: number };

function Zone({ site, zone, tests, catalogue, deepest }: ZoneProps) {
  const units = useUnits();
  const { record } = useRights(site);
  const facts = useQuery(zoneFactsQuery(site, zone.id));
  const fact = (figure: Schemas["ZoneFigure"]) => facts.data?.find((f) => f.figure === figure);
  const roots = fact("root_depth");
  const holds = fact("available");
  const drinks = fact("intake");
  const counting = tests.filter((t) => t.counts);
  const soil = counting.find((t) => t.result.texture)?.result.texture?.texture ?? zone.zone.soil;
  const core = counting.find((t) => t.result.root_depth_mm);
  const repels = counting.find((t) => t.result.repellency && t.result.repellency !== "wettable")?.result.repellency;
  const from = (f: Schemas["ZoneFact"] | undefined) =>
    f?.source.kind === "measured" ? "measured" : f?.source.kind === "entered" ? "typed" : (f?.source.kind ?? "");
  return (
    <li className={classes.zone}>
      <div>
        {roots && (
          <SoilCore
            soil={soil}
            soils={catalogue.soils}
            layers={core?.result.layers ?? zone.zone.layers ?? []}
            roots={roots.value}
            height={150}
            deepest={deepest}
            brief
          />
        )}
      </div>
      <div>
        <h2>{zone.zone.name}</h2>
        {holds && drinks && roots && (
          <Text size="sm">
            {catalogue.soils.find((s) => s.key === soil)?.name}: holds {Math.round(holds.value * 100)} % of its depth (
            {from(holds)}), drinks {units.show("rate", drinks.value)} ({from(drinks)}), roots{" "}
            {units.show("root_depth", roots.value)} ({from(roots)}).
            {repels && ` ${sentenceCase(REPELLENCY[repels])}: light passes with soaks while it lasts.`}
          </Text>
        )}
        {tests.length > 0 && (
          <ul className={classes.tests} aria-label={`Soil tests of ${zone.zone.name}`}>
            {tests.map((t) => (
              <TestLine key={t.id} site={site} zone={zone} test={t} soils={catalogue.soils} />
            ))}
          </ul>
        )}
        {record && (
          <Menu position="bottom-start">
            <Menu.Target>
              <Button variant="outline" size="xs" mt="xs" aria-label={`Test the soil of ${zone.zone.name}`}>
                Test it
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              {METHODS.map((method) => (
                <Menu.Item key={method} component={Link} to={`/site/${site}/soil/${zone.id}/${method}`}>
                  {TESTS[method].name}: {TESTS[method].what}, {TESTS[method].time}
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
        )}
      </div>
    </li>
  );
}

type LineProps = { site: string; zone: ZoneView; test: SoilTestView; soils: Schemas["SoilEntry"][] };

/** A test in a line; opened, what it said, drawn. */
function TestLine({ site, zone, test, soils }: LineProps) {
  const units = useUnits();
  const { manage } = useRights(site);
  const standing = useSoilStanding(site);
  const { result } = test;
  const said = [
    result.texture && soils.find((s) => s.key === result.texture?.texture)?.name.toLowerCase(),
    result.intake_mm_h && units.show("rate", result.intake_mm_h.value),
    result.minutes_to_runoff && `water stood after ${result.minutes_to_runoff.value} min`,
    result.root_depth_mm && `roots ${units.show("root_depth", result.root_depth_mm.value)}`,
    result.repellency && REPELLENCY[result.repellency],
  ].filter(Boolean);
  const { name } = TESTS[test.test.method];
  const when = dated(test.date);
  const state = test.voided ? "void" : test.pinned ? "pinned" : "automatic";
  return (
    <li>
      <details>
        <summary>
          {test.counts ? <strong>{name}</strong> : name}, {when}: {said.join(", ")}
          {test.voided ? " (set aside)" : test.counts ? "" : " (another counts)"}
        </summary>
        <ResultView result={result} zone={zone.zone} soils={soils} />
      </details>
      {manage && (
        <NativeSelect
          size="xs"
          aria-label={`Whether the ${name.toLowerCase()} of ${when} counts`}
          value={state}
          disabled={standing.isPending}
          onChange={(e) => standing.mutate({ test: test.id, standing: e.currentTarget.value as Schemas["Standing"] })}
          data={[
            { value: "automatic", label: "counts by rule" },
            { value: "pinned", label: "always counts" },
            { value: "void", label: "set aside" },
          ]}
        />
      )}
    </li>
  );
}

/** Of what was seen so much is shown. */
const SHOWN = 8;

function Seen({ site, zones }: { site: string; zones: ZoneView[] }) {
  const units = useUnits();
  const { record } = useRights(site);
  const seen = useQuery(seenQuery(site));
  const undo = useUndoSeen(site);
  const shown = seen.data?.slice(0, SHOWN) ?? [];
  return (
    <section>
      <h2>What was seen</h2>
      {shown.length === 0 && <Text>Nothing yet. Morning has a tap for each sign.</Text>}
      <ul className={classes.worth}>
        {shown.map((s) => (
          <li key={s.id}>
            <strong>
              {zones.find((z) => z.id === s.zone)?.zone.name}, {dayMonth(s.date)}: {seenWords(s.seen, units)}
            </strong>
            {s.advice.map((a) => (
              <span key={a.advice}>{adviceWords(a)}</span>
            ))}
            {s.photo && (
              <Anchor href={photoAddress(site, s.id)}>
                <img
                  className={classes.photo}
                  src={photoAddress(site, s.id)}
                  alt={`${seenWords(s.seen, units)}, ${dayMonth(s.date)}`}
                />
              </Anchor>
            )}
            {record && (
              <Button
                size="compact-sm"
                variant="subtle"
                style={{ alignSelf: "flex-start" }}
                aria-label={`Undo ${seenWords(s.seen, units)}, ${dayMonth(s.date)}`}
                onClick={() => undo.mutate(s.id)}
              >
                Undo
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
