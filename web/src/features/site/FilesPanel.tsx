import { Anchor, Stack, Text } from "@mantine/core";
import { useCreateSite } from "../begin/useCreateSite";
import { Refused } from "../shell/States";
import { FilePick } from "./FilePick";
import classes from "./SitePage.module.css";

export function FilesPanel({ site }: { site: string }) {
  const create = useCreateSite();
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
      </Stack>
    </div>
  );
}
