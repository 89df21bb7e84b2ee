// A soil test that the server has: what it says, and what it changes in the plan.
import { Button, Group, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { Schemas } from "../../api";
import { ChangeList } from "../morning/ChangeList";
import { siteQuery } from "../site/queries";
import classes from "../sprinklers/Sprinklers.module.css";
import { adviceWords } from "./words";

type Props = {
  title: string;
  site: string;
  zone: number;
  name: string;
  added: Schemas["SoilTested"];
  view: ReactNode;
  onAgain: () => void;
};

export function Done({ title, site, zone, name, added, view, onAgain }: Props) {
  const today = useQuery(siteQuery(site)).data?.today;
  return (
    <main className={classes.narrow}>
      <h1>{title}</h1>
      {view}
      {added.advice.map((a) => (
        <Text key={a.advice}>{adviceWords(a)}</Text>
      ))}
      <h2>What it changes</h2>
      <ChangeList changes={added.changes} zone={zone} today={today} />
      <Group>
        <Button component={Link} to={`/site/${site}/soil`}>
          All of the soil
        </Button>
        <Button component={Link} to={`/site/${site}/week`} variant="outline">
          The week
        </Button>
        <Button variant="subtle" onClick={onAgain}>
          Test {name} again
        </Button>
      </Group>
    </main>
  );
}
