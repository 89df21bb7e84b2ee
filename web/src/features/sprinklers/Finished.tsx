// A test that the server has: what it says, and what it changes in the plan.
import { Button, Group, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api";
import { useUnits } from "../../units";
import { ChangeList } from "../morning/ChangeList";
import { siteQuery } from "../site/queries";
import { PlanDrawing } from "./PlanDrawing";
import type { CanTest } from "./queries";
import { ResultList } from "./ResultList";
import classes from "./Sprinklers.module.css";
import { RATINGS } from "./words";

type Props = {
  name: string;
  site: string;
  zone: number;
  test?: CanTest;
  added: Schemas["Added"];
  onClose?: () => void;
};

export function Finished({ name, site, zone, test, added, onClose }: Props) {
  const units = useUnits();
  const today = useQuery(siteQuery(site)).data?.today;
  const { result } = added;
  return (
    <main className={classes.narrow}>
      <h1>
        {name}: {units.show("rate", result.rate_mm_h.value)}
        {result.evenness_du_lq ? `, even ${result.evenness_du_lq.value.toFixed(2)}` : ""}
      </h1>
      {result.rating && <Text>For such sprinklers that is {RATINGS[result.rating]}.</Text>}
      {test && <PlanDrawing test={test} result={result} label={`What the cans of ${name} caught`} />}
      <ResultList result={result} site={site} drawn={test !== undefined} />
      <h2>What it changes</h2>
      <ChangeList changes={added.changes} zone={zone} today={today} />
      <Group>
        <Button component={Link} to={`/site/${site}/sprinklers`} onClick={onClose}>
          All sprinklers
        </Button>
        <Button component={Link} to={`/site/${site}/week`} variant="outline" onClick={onClose}>
          The week
        </Button>
      </Group>
    </main>
  );
}
