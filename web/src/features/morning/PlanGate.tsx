// What every view of the plan shares: it is loading, it failed, there is no weather, there are no zones, or here it is.
import { Button, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { Schemas, SiteView, WeekPlan } from "../../api";
import { addDays } from "../../time";
import { useRights } from "../session/rights";
import { Empty, Failed, failure, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import { DayByHand } from "../weather/DayByHand";
import { planQuery, useReplan } from "./queries";

export type Planned = {
  site: string;
  plan: WeekPlan;
  /** The plan's number. */
  number: number;
  madeAt: string;
  changes: Schemas["ZoneChanges"][];
  view: SiteView;
};

function MadeBefore({ site }: { site: string }) {
  const replan = useReplan(site);
  return (
    <main>
      <Empty title="The plan is being made anew">
        <Text>An earlier version of the program made this plan. It is being made anew; this takes a moment.</Text>
        <Button loading={replan.isPending} onClick={() => replan.mutate()}>
          Plan again
        </Button>
      </Empty>
    </main>
  );
}

export function PlanGate({ what, children }: { what: string; children: (planned: Planned) => ReactNode }) {
  const { site } = useParams({ from: "/site/$site" });
  const plan = useQuery(planQuery(site));
  const view = useQuery(siteQuery(site));
  const { record } = useRights(site);
  if (plan.isPending || view.isPending) return <Loading what={what} />;
  const failed = failure(plan, view);
  if (failed || !plan.data || !view.data) {
    return <Failed message={failed?.message ?? ""} retry={() => Promise.all([plan.refetch(), view.refetch()])} />;
  }
  const current = plan.data.current;
  if (plan.data.being_made) return <MadeBefore site={site} />;
  if (!current) {
    return (
      <main>
        <Empty title="No weather yet">
          <Text>
            A plan needs to know the weather. The normals of the months are enough to begin with; a file, a service or a
            station tells the days.
          </Text>
          <Link to="/site/$site/begin-weather" params={{ site }}>
            Give the months’ normals
          </Link>
          <Link to="/site/$site/settings" params={{ site }} search={{ tab: "weather" }}>
            Import weather
          </Link>
          {record && (
            <DayByHand
              site={site}
              today={view.data.today}
              timeZone={view.data.site.time_zone}
              missing={[addDays(view.data.today, -1)]}
            />
          )}
        </Empty>
      </main>
    );
  }
  if (current.plan.zones.length === 0) {
    return (
      <main>
        <Empty title="No zones yet">
          <Text>
            A zone is a part of the lawn that one valve or one sprinkler waters. Add the first, and it is planned.
          </Text>
          <Link to="/site/$site/add-zone" params={{ site }}>
            Add a zone
          </Link>
        </Empty>
      </main>
    );
  }
  return children({
    site,
    plan: current.plan,
    number: current.id,
    madeAt: current.made_at,
    changes: current.changes,
    view: view.data,
  });
}
