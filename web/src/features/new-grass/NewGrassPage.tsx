// New grass from sowing to normal watering: its top by the hour, its stages, and how it went.
import { Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Catalogue, SiteView, WeekPlan } from "../../api";
import { clock, dayMonth, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { planQuery } from "../morning/queries";
import { slotsWords } from "../reasons/run";
import { grassName } from "../reasons/words";
import { useRights } from "../session/rights";
import { Failed, failure, Loading } from "../shell/States";
import { catalogueQuery, siteQuery, zonesQuery } from "../site/queries";
import { ItIsALawn } from "./ItIsALawn";
import classes from "./NewGrass.module.css";
import { NewGrassToday } from "./NewGrassToday";
import { type NewGrassZone, newGrassQuery } from "./queries";
import { StageList } from "./StageList";
import { StandCount } from "./StandCount";
import { stretches, TopOfCore, topDay } from "./TopOfCore";
import { isTurf, MADE } from "./words";

export function NewGrassPage() {
  const { site } = useParams({ from: "/site/$site/new-grass" });
  const [slow, setSlow] = useState(0);
  const view = useQuery(siteQuery(site));
  const plan = useQuery(planQuery(site));
  const zones = useQuery(zonesQuery(site));
  const found = useQuery(newGrassQuery(site, slow));
  const catalogue = useQuery(catalogueQuery);
  const error = failure(view, plan, found, zones, catalogue);
  if (error) return <Failed message={error.message} retry={() => found.refetch()} />;
  if (!view.data || !plan.data || !found.data || !zones.data || !catalogue.data) return <Loading what="new grass" />;
  const growing = found.data.zones.filter((zone) => zone.stages);
  const soils = new Map(zones.data.map((zone) => [String(zone.id), zone.zone.soil]));
  return (
    <main className={classes.page}>
      <h1>New grass</h1>
      <Text>
        {growing.length === 0
          ? "No zone has new grass. Plan it: when to sow by your own past weather, backwards from frost, and what it takes. Once it is sown, say so on Site, Zones: sown on which day, and who waters it."
          : "New seed dies of one dry afternoon, or of a puddle. Its top is planned by the hour, anew at each slot."}
      </Text>
      <p>
        <Link to="/site/$site/new-grass/plan" params={{ site }} search={{}}>
          Plan new grass: when, backwards from frost, what it takes
        </Link>
      </p>
      <ul className={classes.zones}>
        {growing.map((zone) => (
          <Zone
            key={zone.zone}
            site={site}
            zone={zone}
            today={found.data.today}
            view={view.data}
            plan={plan.data.current?.plan}
            soil={soils.get(String(zone.zone))}
            catalogue={catalogue.data}
            onSlow={setSlow}
          />
        ))}
      </ul>
      <Text className={classes.cautions}>
        Labels are law: they say how long a spray keeps seed, people and pets off. Local rules decide on watering and
        feeding; a permit for new seed goes on Site, Rules. Call before you dig. In the heat work early: shade, water,
        never alone at noon.
      </Text>
    </main>
  );
}

type ZoneProps = {
  site: string;
  zone: NewGrassZone;
  today: string;
  view: SiteView;
  plan: WeekPlan | undefined;
  soil: Parameters<typeof TopOfCore>[0]["soil"] | undefined;
  catalogue: Catalogue;
  onSlow: (pct: number) => void;
};

function Zone({ site, zone, today, view, plan, soil, catalogue, onSlow }: ZoneProps) {
  const units = useUnits();
  const { manage } = useRights(site);
  const { stages } = zone;
  if (!stages) return null;
  const planned = plan?.zones.find((z) => z.zone === String(zone.zone));
  const next = planned?.new_grass?.next_c_d;
  return (
    <li className={classes.zone} aria-label={zone.name}>
      <h2>{zone.name}</h2>
      <p className="quiet">
        {sentenceCase(grassName(zone.grass))}, {MADE[stages.made]} on {dayMonth(stages.sown_on)}.{" "}
        {!isTurf(stages.made) &&
          `Warmth since then ${units.figure("warmth", stages.warmth_c_d)}${next ? ` of the ${units.show("warmth", next)} that its next stage wants` : ` ${units.label("warmth")}`}; `}
        {Math.round(stages.cover * 100)} % of the ground is covered.
      </p>
      {plan && soil && <Today site={site} zone={zone} view={view} plan={plan} soil={soil} />}
      {planned?.lawn_from && (
        <ItIsALawn
          site={site}
          zone={zone}
          rootsMm={planned.root_depth_mm}
          from={planned.lawn_from}
          today={today}
          manage={manage}
        />
      )}
      <StageList stages={stages} today={today} catalogue={catalogue} onSlow={onSlow} />
      {!isTurf(stages.made) && <StandCount site={site} zone={zone} today={today} />}
    </li>
  );
}

/** Its top today and tomorrow, what to do by hand, and what was seen. */
function Today({
  site,
  zone,
  view,
  plan,
  soil,
}: Pick<ZoneProps, "site" | "zone" | "view"> & {
  plan: WeekPlan;
  soil: Parameters<typeof TopOfCore>[0]["soil"];
}) {
  const units = useUnits();
  const planned = plan.zones.find((z) => z.zone === String(zone.zone));
  const zoneToday = planned?.cells.findIndex((c) => c.date === plan.today) ?? -1;
  const cells = zoneToday < 0 ? [] : (planned?.cells.slice(zoneToday, zoneToday + 2) ?? []);
  const days = cells.flatMap((cell) => topDay(cell, plan.time_zone) ?? []);
  const surface = cells[0]?.surface;
  if (!planned || days.length === 0 || !surface) return null;
  const [hours, minutes] = clock(view.now, view.site.time_zone).split(":");
  const tomorrow = cells[1];
  const dry = (at: number) => {
    const hours = days[at]?.dry ?? [];
    return hours.length === 0 ? "never too dry" : `too dry from ${stretches(hours)}`;
  };
  return (
    <section aria-label={`The top of ${zone.name} today and tomorrow`}>
      <TopOfCore
        days={days}
        now={Number(hours) + Number(minutes) / 60}
        soil={soil}
        isUp={zone.stages?.stage !== "not_up"}
        layerMm={surface.layer_mm}
        name={zone.name}
      />
      <p>
        <strong>Today {dry(0)}.</strong>{" "}
        {cells[0]?.run ? `Still to water: ${slotsWords(cells[0], plan.time_zone)}.` : "Nothing more to water today."}{" "}
        {tomorrow && (
          <>
            <strong>Tomorrow {dry(1)}</strong>
            {tomorrow.run ? `: ${slotsWords(tomorrow, plan.time_zone)}.` : ": no watering is due."}
          </>
        )}
      </p>
      <p className="quiet">
        The top {units.show("root_depth", surface.layer_mm)} can lose {units.show("depth", surface.tew_mm)} to the air
        {surface.limit_mm == null
          ? "; roots reach below it now."
          : `; at this stage no more than ${units.show("depth", surface.limit_mm)} of it.`}
      </p>
      <ul className={classes.today}>
        <NewGrassToday plan={{ ...plan, zones: [planned] }} site={site} view={view} />
      </ul>
    </section>
  );
}
