// What a test or a note changes in the plan, the zone itself first.
import { Text } from "@mantine/core";
import type { Schemas } from "../../api";
import { sentenceCase } from "../../time";
import { changeWords } from "./Changes";
import classes from "./Today.module.css";

type Props = { changes: Schemas["Change"][] | null | undefined; zone: number; today: string | undefined };

export function ChangeList({ changes, zone, today }: Props) {
  if (!changes) return <Text>It was kept before; the plan has it already.</Text>;
  if (changes.length === 0 || !today) return <Text>Nothing in this week’s plan.</Text>;
  const own = (c: Schemas["Change"]) => Number(c.zone === String(zone));
  return (
    <ul className={classes.changed}>
      {[...changes]
        .sort((a, b) => own(b) - own(a))
        .map((c) => (
          <li key={JSON.stringify(c)}>
            {!own(c) && "Another zone, moved by it: "}
            {sentenceCase(changeWords(c, today))}
          </li>
        ))}
    </ul>
  );
}
