import { Anchor, Stack, Text } from "@mantine/core";
import type { Schemas } from "../../api";
import { useCreateSite } from "../begin/useCreateSite";
import { FilePick } from "../files/FilePick";
import { ImportFile } from "../files/ImportFile";
import { useRights } from "../session/rights";
import { Refused } from "../shell/States";
import classes from "./SitePage.module.css";

function imported({ new: added, answered, known }: Schemas["ImportedRuns"]): string {
  const parts = [`${added} written`];
  if (answered > 0) parts.push(`${answered} answered`);
  if (known > 0) parts.push(`${known} were there already`);
  return `${parts.join(", ")}.`;
}

export function FilesPanel({ site }: { site: string }) {
  const create = useCreateSite();
  const { record } = useRights(site);
  const base = `/api/v1/sites/${site}`;
  return (
    <div className={classes.columns}>
      <Stack gap="sm">
        <h2>Take it with you</h2>
        <Text>Open formats; the command line plans from the same files.</Text>
        <Anchor href={`${base}/document`} download="site.json">
          Site document, site.json
        </Anchor>
        <Anchor href={`${base}/weather.csv`} download="weather.csv">
          Weather, weather.csv
        </Anchor>
        <Anchor href={`${base}/runs.csv`} download="runs.csv">
          Runs, runs.csv
        </Anchor>
        <Anchor href={`${base}/runs.json`} download="runs.json">
          Runs, runs.json
        </Anchor>
        <Anchor href={`${base}/sprinkler-tests.csv`} download="sprinkler-tests.csv">
          Sprinkler tests, sprinkler-tests.csv
        </Anchor>
        <Anchor href={`${base}/head-faults.csv`} download="head-faults.csv">
          Heads at fault, head-faults.csv
        </Anchor>
        <Anchor href={`${base}/history.csv`} download="history.csv">
          Who did what, history.csv
        </Anchor>
      </Stack>
      <Stack gap="sm">
        <h2>Bring one in</h2>
        <FilePick
          label="Site document (JSON)"
          hint="Always makes a new site; this one stays as it is."
          accept=".json,application/json"
          onText={(text) => create.mutate(text)}
        />
        <Refused error={create.error} />
        {record && (
          <ImportFile<Schemas["ImportedRuns"]>
            site={site}
            label="Runs of this site"
            hint="CSV or JSON as it is saved here, or a sheet of your own: date, started, name of the zone, minutes. A run that is here already is not added again; confirmed, changed or denied under said answers it."
            accept=".csv,.json,text/csv,application/json"
            url={`${base}/run-imports`}
            insists
            done={imported}
          />
        )}
      </Stack>
    </div>
  );
}
