// All runs of the last days: any of them may still be answered, or its answer taken back.
import { Checkbox, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import { useRights } from "../session/rights";
import { Failed, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import { NoteWatering } from "./NoteWatering";
import { DAYS_OPEN, recentRunsQuery } from "./queries";
import { RunDays } from "./Ran";
import classes from "./Ran.module.css";

export function RunsPage() {
  const { site } = useParams({ from: "/site/$site/runs" });
  const view = useQuery(siteQuery(site));
  if (view.isPending) return <Loading what="the runs" />;
  if (view.error) return <Failed message={view.error.message} retry={() => view.refetch()} />;
  return <Runs site={site} today={view.data.today} timeZone={view.data.site.time_zone} />;
}

function Runs({ site, today, timeZone }: { site: string; today: string; timeZone: string }) {
  const runs = useQuery(recentRunsQuery(site, today));
  const { record } = useRights(site);
  const [assumedOnly, setAssumedOnly] = useState(false);
  if (runs.isPending) return <Loading what="the runs" />;
  if (runs.error) return <Failed message={runs.error.message} retry={() => runs.refetch()} />;
  const assumed = runs.data.filter((r) => r.source === "assumed");
  const shown = assumedOnly ? assumed : runs.data;
  return (
    <main className={classes.page}>
      <h1>What ran in the last {DAYS_OPEN} days</h1>
      <Text className="quiet">
        {assumed.length === 0
          ? "Somebody said of each run what became of it."
          : `Of ${assumed.length} nobody has said anything: they are assumed to have run as planned.`}
      </Text>
      <Checkbox
        label="Only those that are assumed"
        checked={assumedOnly}
        onChange={(e) => setAssumedOnly(e.currentTarget.checked)}
      />
      {shown.length === 0 && <p className={classes.plain}>None.</p>}
      <RunDays site={site} runs={shown} today={today} timeZone={timeZone} />
      {record && <NoteWatering site={site} />}
    </main>
  );
}
