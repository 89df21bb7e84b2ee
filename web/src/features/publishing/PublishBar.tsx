// Whether the week on the screen is what runs: a draft, or published.
import { Button } from "@mantine/core";
import type { WeekPlan } from "../../api";
import { longDay, sentenceCase } from "../../time";
import { useRights } from "../session/rights";
import classes from "./Publishing.module.css";
import type { Publishing } from "./queries";
import { changesOf, publishedWords, standing } from "./words";

type Props = { site: string; plan: WeekPlan; publishing: Publishing; onOpen: () => void };

export function PublishBar({ site, plan, publishing, onOpen }: Props) {
  const { manage } = useRights(site);
  const { published, since } = publishing;
  const is = standing(publishing, plan.today);
  const changes = changesOf(publishing);
  const harmful = since?.drains.length ?? 0;
  return (
    <div className={classes.bar} data-standing={is}>
      <p>
        {is === "none" && (
          <>
            <strong>Draft.</strong> Nothing is published: what runs is taken from the newest plan, whatever it says by
            then.
          </>
        )}
        {published && is === "over" && (
          <>
            <strong>Draft.</strong> The published week ended {longDay(published.last_day)}; since then the newest plan
            counts.
          </>
        )}
        {published && (is === "same" || is === "changed") && (
          <>
            <strong>{is === "same" ? "Published." : "Changed since it was published."}</strong>{" "}
            {sentenceCase(publishedWords(published, plan.time_zone))}; what is published runs.
            {is === "changed" && ` ${changes === 1 ? "One watering differs" : `${changes} waterings differ`} from it.`}
          </>
        )}
        {harmful > 0 && (
          <strong className={classes.harm}>
            {" "}
            {harmful === 1 ? "One published watering" : `${harmful} published waterings`} would drain by now.
          </strong>
        )}
      </p>
      <Button size="xs" variant={manage && is !== "same" ? "filled" : "outline"} onClick={onOpen}>
        {is === "changed" ? "What changed" : manage && is !== "same" ? "Publish" : "What is published"}
      </Button>
    </div>
  );
}
