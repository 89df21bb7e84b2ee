// Whether the week on the screen is what runs: a draft, or published.
import { Button } from "@mantine/core";
import type { WeekPlan } from "../../api";
import { longDay } from "../../time";
import { useRights } from "../session/rights";
import classes from "./Publishing.module.css";
import type { Publishing } from "./queries";
import { byWords, changesOf, controllerTrouble, standing } from "./words";

type Props = { site: string; plan: WeekPlan; publishing: Publishing; onOpen: () => void };

export function PublishBar({ site, plan, publishing, onOpen }: Props) {
  const { manage } = useRights(site);
  const { published, since } = publishing;
  const is = standing(publishing, plan.today);
  const changes = changesOf(publishing);
  const trouble = controllerTrouble(publishing.controller, is === "same" || is === "changed");
  const harmful = since?.drains.length ?? 0;
  return (
    <div className={classes.bar} data-standing={is}>
      <p>
        {is === "none" && (
          <>
            <strong>Draft.</strong> Nothing is published: the newest plan counts.
          </>
        )}
        {published && is === "over" && (
          <>
            <strong>Draft.</strong> The published week ended {longDay(published.last_day)}: the newest plan counts.
          </>
        )}
        {published && is === "same" && (
          <>
            <strong>Published</strong> {byWords(published)}; it runs up to {longDay(published.last_day)}.
          </>
        )}
        {published && is === "changed" && (
          <>
            <strong>Changed since it was published:</strong> {changes === 1 ? "one watering" : `${changes} waterings`}.
          </>
        )}
        {harmful > 0 && (
          <strong className={classes.harm}>
            {" "}
            {harmful === 1 ? "One published watering" : `${harmful} published waterings`} would drain by now.
          </strong>
        )}
        {trouble && <strong className={classes.harm}> {trouble}</strong>}
      </p>
      <Button size="xs" variant={manage && is !== "same" ? "filled" : "outline"} onClick={onOpen}>
        {is === "changed" ? "What changed" : manage && is !== "same" ? "Publish" : "What is published"}
      </Button>
    </div>
  );
}
