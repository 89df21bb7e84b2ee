// Two people changed the same day: what each of them wants, side by side. What the second asked is kept until they decide.
import { Button, Group } from "@mantine/core";
import type { Schemas } from "../../api";
import { clock } from "../../time";
import classes from "../reasons/Working.module.css";
import { heldWords } from "./edits";

type Props = {
  /** What this reader asked, in words. */
  mine: string;
  reason: string;
  /** What holds by now; none: it was left to the plan. */
  theirs: Schemas["EditView"] | undefined;
  onMine: () => void;
  onTheirs: () => void;
};

export function BothVersions({ mine, reason, theirs, onMine, onTheirs }: Props) {
  const who = theirs?.who ?? "Somebody";
  return (
    <section className={classes.dry} role="alert">
      <p className={classes.warning}>
        {theirs ? `${who} changed this day while you looked at it.` : "What held on this day was undone meanwhile."}{" "}
        Nothing of yours is lost; choose which holds.
      </p>
      <table className={classes.lines} data-wide>
        <caption className="hidden">Both versions</caption>
        <thead>
          <tr>
            <th scope="col">This day</th>
            <th scope="col">Holds now</th>
            <th scope="col">Yours</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">What</th>
            <td>{theirs ? heldWords(theirs) : "As planned"}</td>
            <td>{mine}</td>
          </tr>
          <tr>
            <th scope="row">Why</th>
            <td>{theirs?.reason ?? "–"}</td>
            <td>{reason.trim() || "–"}</td>
          </tr>
          <tr>
            <th scope="row">Who</th>
            <td>
              {theirs ? `${who}, ${clock(theirs.made_at, Intl.DateTimeFormat().resolvedOptions().timeZone)}` : "–"}
            </td>
            <td>you, not kept yet</td>
          </tr>
        </tbody>
      </table>
      <Group mt="xs" gap="xs">
        <Button variant="outline" onClick={onTheirs}>
          Leave it as it is now
        </Button>
        <Button variant="outline" onClick={onMine}>
          See what yours would do now
        </Button>
      </Group>
    </section>
  );
}
