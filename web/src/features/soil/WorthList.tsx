// What is worth measuring next: the zone, the test, what it leaves open, what not knowing it costs, and the way to begin.
import { Button, Text } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import type { Schemas, SiteView, WeekPlan } from "../../api";
import { amount } from "../../money";
import { dated, daysBetween } from "../../time";
import { useUnits } from "../../units";
import type { Worth } from "./queries";
import classes from "./Soil.module.css";

type Way = { name: string; to: string };

/** The test that tells it, and where it begins. */
const WAYS: Record<Schemas["Sharpen"], (site: string, zone: string) => Way> = {
  can_test: (site, zone) => ({ name: "can test", to: `/site/${site}/sprinklers/${zone}` }),
  quick_test: (site, zone) => ({ name: "quick test", to: `/site/${site}/sprinklers/${zone}/quick` }),
  pull_a_core: (site, zone) => ({ name: "pulled core", to: `/site/${site}/soil/${zone}/core` }),
  squeeze_soil: (site, zone) => ({ name: "squeeze test", to: `/site/${site}/soil/${zone}/squeeze` }),
  jar_test: (site, zone) => ({ name: "jar test", to: `/site/${site}/soil/${zone}/jar` }),
  time_the_runoff: (site, zone) => ({ name: "runoff test", to: `/site/${site}/soil/${zone}/runoff` }),
  read_the_moisture: (site) => ({ name: "moisture, once a week", to: `/site/${site}/morning` }),
};

export const wayOf = (test: Schemas["Sharpen"], site: string, zone: string) => WAYS[test](site, zone);

const FIGURES: Record<Schemas["ZoneFigure"], string> = {
  rate: "precipitation rate",
  evenness: "evenness",
  spray_loss: "spray loss",
  root_depth: "root depth",
  available: "water that the soil holds",
  intake: "intake",
  site_factor: "what sun and wind add",
};

const STALE_DAYS = 365;
/** A span of minutes, share of the most, that is none to speak of. */
const HARDLY = 0.03;

type Props = {
  plan: WeekPlan;
  view: SiteView;
  site: string;
  /** As many as are shown. */
  most: number;
  /** Whether the reader may begin a test. */
  record: boolean;
};

export function WorthList({ plan, view, site, most, record }: Props) {
  const shown = plan.worth_measuring.slice(0, most);
  if (shown.length === 0) return <Text>Nothing: what could move the plan was measured within the year.</Text>;
  return (
    <ul className={classes.worth}>
      {shown.map((worth) => (
        <Item key={`${worth.zone}-${worth.test}`} worth={worth} plan={plan} view={view} site={site} record={record} />
      ))}
    </ul>
  );
}

const whole = (seconds: number) => Math.round(seconds / 60);

function Item({ worth, plan, view, site, record }: Omit<Props, "most"> & { worth: Worth }) {
  const units = useUnits();
  const name = plan.zones.find((z) => z.zone === worth.zone)?.name ?? worth.zone;
  const way = WAYS[worth.test](site, worth.zone);
  const cost = worth.loss_cost == null ? undefined : amount(worth.loss_cost, view.site.currency);
  const measured = worth.source.kind === "measured" ? worth.source.date : undefined;
  const stale = measured !== undefined && daysBetween(measured, plan.today) > STALE_DAYS;
  const [least, most] = [whole(worth.least_s), whole(worth.most_s)];
  return (
    <li>
      <strong>
        {name}: {FIGURES[worth.figure]}
      </strong>
      <span>
        {most - least < HARDLY * most
          ? `The ${whole(worth.week_s)} min of a week without rain hardly change with it; what they do in the ground does.`
          : `A week without rain takes ${whole(worth.week_s)} min by what is known, and anything from ${least} to ${most} min by what may be.`}{" "}
        Not knowing it costs some {units.show("depth", worth.loss_mm)} of such a week in stress and waste:{" "}
        {units.show("volume", worth.loss_l)}
        {cost ? `, ${cost}` : ""}.{stale && ` Measured ${dated(measured)}: gone stale.`}
      </span>
      {record && (
        <Button component={Link} to={way.to} variant="outline" size="xs" style={{ alignSelf: "flex-start" }}>
          {`${way.name.charAt(0).toUpperCase()}${way.name.slice(1)}, ${worth.minutes} min`}
        </Button>
      )}
    </li>
  );
}
