// New grass to be planned: when by the site's own past weather, backwards from frost, and what it takes.
import { Button, Group, NativeSelect, Text } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { ApiFailure, type Catalogue, type Schemas } from "../../api";
import { dayMonth, longDay } from "../../time";
import { useRights } from "../session/rights";
import { Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { BackToNewGrass } from "./BackToNewGrass";
import classes from "./NewGrass.module.css";
import {
  type Asked,
  type Grass,
  type KeptSowing,
  keptQuery,
  type Method,
  type NewGrassZone,
  newGrassQuery,
  planSowingQuery,
  useKeepSowing,
  weeksQuery,
} from "./queries";
import { type Days, SowingLine, setOf } from "./SowingLine";
import { isSeed, type Labels, Takes } from "./Takes";
import { Weeks } from "./Weeks";
import { METHODS, SOWS } from "./words";

/** Grasses of which only few kinds have seed. */
const SELDOM_SEEDED: Grass[] = ["hybrid_bermudagrass"];

export function PlanPage() {
  const { site } = useParams({ from: "/site/$site/new-grass/plan" });
  const search = useSearch({ from: "/site/$site/new-grass/plan" });
  const catalogue = useQuery(catalogueQuery);
  const zones = useQuery(newGrassQuery(site, 0));
  const plans = useQuery(keptQuery(site));
  const error = zones.error ?? catalogue.error ?? plans.error;
  if (error) return <Failed message={error.message} retry={() => zones.refetch()} />;
  if (!zones.data || !catalogue.data || !plans.data) return <Loading what="new grass" />;
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
  const plan = plans.data.find((k) => k.zone === zone.zone);
  const kept = search.grass || search.method ? undefined : plan?.kept;
  const grass = search.grass ?? kept?.grass ?? zone.grass;
  const methods = catalogue.data.grasses.find((g) => g.key === grass)?.methods ?? [];
  const wanted = search.method ?? kept?.method;
  const method = wanted && methods.includes(wanted) ? wanted : (methods[0] ?? "sod");
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
      {SELDOM_SEEDED.includes(grass) && isSeed(method) && method !== "winter_rye" && (
        <Text maw={640}>
          Most hybrid bermudagrass sets no seed. Only kinds that are named as seeded on the bag are sown; all others are
          set as sprigs or plugs, or laid as sod.
        </Text>
      )}
      <Planned
        key={`${zone.zone} ${grass} ${method}`}
        site={site}
        zone={zone}
        grass={grass}
        method={method}
        catalogue={catalogue.data}
        plan={plan}
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

/** The days that were kept, where they are of this grass made in this way. */
function keptDays(plan: KeptSowing | undefined, grass: Grass, method: Method): Days | undefined {
  if (plan?.kept.grass !== grass || plan.kept.method !== method) return undefined;
  const { sow, soil_work, spray, wait_days } = plan.kept;
  return { sow, soil_work, wait_days, ...(spray ? { spray } : {}) };
}

function Planned({ site, zone, grass, method, catalogue, plan: keptPlan }: Plot & { plan: KeptSowing | undefined }) {
  const [hours, setHours] = useState<Schemas["SowingHours"]>("day");
  const [days, setDays] = useState<Days | undefined>(() => keptDays(keptPlan, grass, method));
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
        <Keep
          site={site}
          zone={zone}
          grass={grass}
          method={method}
          days={setOf(plan.data.line, days)}
          plan={keptPlan}
        />
      </section>
      <Takes zone={zone} plan={plan.data} catalogue={catalogue} onLabels={setLabels} />
    </>
  );
}

type KeepProps = Omit<Plot, "catalogue"> & { days: Days; plan: KeptSowing | undefined };

/** Keeps the days: they stand here when one comes back, and come up on Morning. */
function Keep({ site, zone, grass, method, days, plan }: KeepProps) {
  const { manage } = useRights(site);
  const keep = useKeepSowing(site, zone.zone);
  if (!manage) return null;
  const known = plan && setAlike(plan.kept, { grass, method, ...days });
  return (
    <>
      <Group gap="xs" mt="xs">
        {!known && (
          <Button loading={keep.isPending} onClick={() => keep.mutate({ grass, method, ...days })}>
            {plan ? "Keep these days instead" : "Keep this plan"}
          </Button>
        )}
        {plan && (
          <Button variant="outline" loading={keep.isPending} onClick={() => keep.mutate(undefined)}>
            Forget the kept plan
          </Button>
        )}
        {plan && (
          <Text size="sm" role="status">
            Kept{plan.who ? ` by ${plan.who}` : ""}: {METHODS[plan.kept.method].toLowerCase()},{" "}
            {SOWS[plan.kept.method].toLowerCase()} on {longDay(plan.kept.sow)}. Its days come up on Morning.
          </Text>
        )}
      </Group>
      <Refused error={keep.error} />
    </>
  );
}

/** Whether what is kept is what is on the screen. */
const setAlike = (a: KeptSowing["kept"], b: KeptSowing["kept"]) =>
  a.grass === b.grass &&
  a.method === b.method &&
  a.sow === b.sow &&
  a.soil_work === b.soil_work &&
  (a.spray ?? undefined) === (b.spray ?? undefined) &&
  a.wait_days === b.wait_days;

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
