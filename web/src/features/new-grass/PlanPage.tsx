// New grass to be planned: when by the site's own past weather, backwards from frost, and what it takes.
import { NativeSelect, Text } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { ApiFailure, type Catalogue, type Schemas } from "../../api";
import { dayMonth, longDay } from "../../time";
import { Failed, Loading } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { BackToNewGrass } from "./BackToNewGrass";
import classes from "./NewGrass.module.css";
import {
  type Asked,
  type Grass,
  type Method,
  type NewGrassZone,
  newGrassQuery,
  planSowingQuery,
  weeksQuery,
} from "./queries";
import { type Days, SowingLine } from "./SowingLine";
import { type Labels, Takes } from "./Takes";
import { Weeks } from "./Weeks";
import { METHODS } from "./words";

export function PlanPage() {
  const { site } = useParams({ from: "/site/$site/new-grass/plan" });
  const search = useSearch({ from: "/site/$site/new-grass/plan" });
  const catalogue = useQuery(catalogueQuery);
  const zones = useQuery(newGrassQuery(site, 0));
  const error = zones.error ?? catalogue.error;
  if (error) return <Failed message={error.message} retry={() => zones.refetch()} />;
  if (!zones.data || !catalogue.data) return <Loading what="new grass" />;
  const zone = zones.data.zones.find((z) => z.zone === search.zone) ?? zones.data.zones[0];
  if (!zone) {
    return (
      <main className={classes.page}>
        <BackToNewGrass site={site} />
        <h1>Plan new grass</h1>
        <Text>This site has no zone of turf yet. Add one on Site, Zones, and plan its grass here.</Text>
      </main>
    );
  }
  const grass = search.grass ?? zone.grass;
  const methods = catalogue.data.grasses.find((g) => g.key === grass)?.methods ?? [];
  const method = search.method && methods.includes(search.method) ? search.method : (methods[0] ?? "sod");
  return (
    <main className={classes.page}>
      <BackToNewGrass site={site} />
      <h1>Plan new grass</h1>
      <Chosen
        site={site}
        zones={zones.data.zones}
        zone={zone}
        grass={grass}
        method={method}
        catalogue={catalogue.data}
      />
      <Planned
        key={`${zone.zone} ${grass} ${method}`}
        site={site}
        zone={zone}
        grass={grass}
        method={method}
        catalogue={catalogue.data}
      />
      <Text className={classes.cautions}>
        Labels are law: they say how long to wait between a spray and seed, and keep people and pets off until it is
        dry. Local rules decide on watering and feeding; phosphate may ask for a soil test. Call before you dig. In the
        heat work early: shade, water, never alone at noon.
      </Text>
    </main>
  );
}

type Plot = { site: string; zone: NewGrassZone; grass: Grass; method: Method; catalogue: Catalogue };

/** Which zone, which grass, in which way. */
function Chosen({ site, zones, zone, grass, method, catalogue }: Plot & { zones: NewGrassZone[] }) {
  const navigate = useNavigate();
  const go = (search: { zone: number; grass?: Grass; method?: Method }) =>
    navigate({ to: "/site/$site/new-grass/plan", params: { site }, search, replace: true });
  const ways = catalogue.grasses.find((g) => g.key === grass)?.methods ?? [];
  return (
    <div className={classes.chosen}>
      <NativeSelect
        label="Zone"
        value={String(zone.zone)}
        onChange={(e) => go({ zone: Number(e.currentTarget.value) })}
        data={zones.map((z) => ({ value: String(z.zone), label: z.name }))}
      />
      <NativeSelect
        label="Grass"
        value={grass}
        onChange={(e) => go({ zone: zone.zone, grass: e.currentTarget.value as Grass })}
        data={catalogue.grasses.map((g) => ({ value: g.key, label: g.name }))}
      />
      <NativeSelect
        label="How"
        value={method}
        onChange={(e) => go({ zone: zone.zone, grass, method: e.currentTarget.value as Method })}
        data={ways.map((m) => ({ value: m, label: METHODS[m] }))}
      />
    </div>
  );
}

function Planned({ site, zone, grass, method, catalogue }: Plot) {
  const [hours, setHours] = useState<Schemas["SowingHours"]>("day");
  const [days, setDays] = useState<Days>();
  const [labels, setLabels] = useState<Labels>({});
  // What is asked is compared by what it says: a new object each time would never come to rest.
  const [said] = useDebouncedValue(JSON.stringify({ grass, method, hours, ...days, ...labels }), 150);
  const asked = JSON.parse(said) as Asked;
  const weeks = useQuery(weeksQuery(site, zone.zone, { grass, method, hours }));
  const plan = useQuery(planSowingQuery(site, zone.zone, asked));
  if (plan.error && !plan.data) return <Failed message={plan.error.message} retry={() => plan.refetch()} />;
  if (!plan.data) return <Loading what="the past years" />;
  const field = plan.error instanceof ApiFailure ? (plan.error.problem?.field ?? undefined) : undefined;
  const sow = plan.data.line.points.find((point) => point.what === "sow")?.on;
  const week = weeks.data?.weeks.findLast((w) => sow !== undefined && w.from <= sow);
  return (
    <>
      <section aria-label="When">
        <h2>When</h2>
        <NativeSelect
          label="To be watered"
          value={hours}
          onChange={(e) => setHours(e.currentTarget.value as typeof hours)}
          data={[
            { value: "day", label: "by the hour: in its own hours, or 06:00 to 19:00" },
            { value: "site", label: "in the site’s hours alone" },
          ]}
          maw={420}
        />
        {weeks.error && <Text c="var(--clay)">{weeks.error.message}</Text>}
        {weeks.data ? (
          <Weeks weeks={weeks.data} sow={sow} />
        ) : (
          !weeks.error && <p role="status">Computing each week of the year from the past years …</p>
        )}
      </section>
      <section aria-label="Planned backwards">
        <h2>Planned backwards from frost</h2>
        <SowingLine
          line={plan.data.line}
          weeks={weeks.data}
          week={week}
          days={days}
          onDays={setDays}
          catalogue={catalogue}
          wrong={field === undefined ? undefined : { field, message: plan.error?.message ?? "" }}
        />
        {plan.error && field === undefined && <Text c="var(--clay)">{plan.error.message}</Text>}
        <Known line={plan.data.line} />
      </section>
      <Takes zone={zone} plan={plan.data} catalogue={catalogue} onLabels={setLabels} />
    </>
  );
}

/** By what it is judged. */
function Known({ line }: { line: Parameters<typeof SowingLine>[0]["line"] }) {
  const frost = line.points.find((point) => point.what === "frost");
  if (line.years === 0)
    return (
      <p className="quiet">
        No whole past year on record tells how it goes from that day on. Import past years of weather (Site, Weather),
        and we compute the season, the odds and the frost from them.
      </p>
    );
  return (
    <p className="quiet">
      By {line.years === 1 ? "the one past year on record" : `${line.years} past years on record`}
      {line.years < 10 ? ", which is few: import more (Site, Weather) and it is surer" : ""}.{" "}
      {frost
        ? `Frost: ${longDay(frost.on)}, as early as in one autumn of five${frost.spread && frost.spread.low !== frost.spread.high ? `; on record between ${dayMonth(frost.spread.low)} and ${dayMonth(frost.spread.high)}` : ""}.`
        : "No hard frost on record ends the season."}{" "}
      Soil is taken to be as warm as the air of the last ten days.
    </p>
  );
}
