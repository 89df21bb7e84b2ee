// The stages of new grass: when each came or comes, how it is watered and kept from harm, and what is done to it.
import { useEffect } from "react";
import type { Catalogue, Schemas } from "../../api";
import { longDay, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import classes from "./NewGrass.module.css";
import type { Stages } from "./queries";
import { isTurf, ROOTING, STAGE_WORK, stageWhen } from "./words";

type Props = { stages: Stages; today: string; catalogue: Catalogue; onSlow: (pct: number) => void };

export function StageList({ stages, today, catalogue, onSlow }: Props) {
  const units = useUnits();
  const figures = useFigures({ slow_pct: stages.slow_pct });
  const problem = figures.problem("slow_pct", { required: true }, catalogue);
  const slow = problem ? undefined : figures.si("slow_pct");
  useEffect(() => {
    if (slow !== undefined) onSlow(slow);
  }, [slow, onSlow]);
  const [starter, again] = stages.feeds;
  const sown: Schemas["StageDay"] = { stage: "not_up", when: "began", on: stages.sown_on, seen: true };
  // What comes grown begins with rooting.
  const rows = isTurf(stages.made) ? stages.stages.filter((row) => row.stage !== "up") : [sown, ...stages.stages];
  return (
    <section aria-label="Stages">
      <h3>Stages</h3>
      <ol className={classes.stages}>
        {rows.map((row) => {
          const words = isTurf(stages.made) && row.stage === "filling_in" ? ROOTING : STAGE_WORK[row.stage];
          const now = row.stage === stages.stage;
          return (
            <li key={row.stage} aria-current={now ? "step" : undefined}>
              <strong>
                {now ? "▸ " : ""}
                {words.name}
              </strong>
              <span>{row.stage === "not_up" ? `sown on ${longDay(stages.sown_on)}` : stageWhen(row, today)}</span>
              <span>Watered {words.waters}.</span>
              <span className="quiet">{sentenceCase(words.keeps)}.</span>
            </li>
          );
        })}
      </ol>
      <dl className={classes.facts}>
        <div>
          <dt>First mowing</dt>
          <dd>
            when blades are {units.show("root_depth", stages.mow_from_mm)}, to{" "}
            {units.show("root_depth", stages.mow_at_mm)}: dry turf, a sharp blade, never more than a third. A tug first:
            what comes away is not rooted yet.
          </dd>
        </div>
        <div>
          <dt>Weed killers</dt>
          <dd>
            {stages.weed_killers_from
              ? `not before ${longDay(stages.weed_killers_from)}: six weeks after it came up, or its second mowing, whichever is later. The label decides. Pre-emergents keep seed from coming up.`
              : "not before six weeks after it came up and its second mowing; the label decides."}
          </dd>
        </div>
        <div>
          <dt>Feed</dt>
          <dd>
            {starter && again
              ? `starter on ${longDay(starter.on)}${starter.on === stages.sown_on ? ", on its first day" : ": its seed is slow, and feeds weeds before"}; again on ${longDay(again.on)}: after four weeks, later by its slow-release share.`
              : ""}
            <div className={classes.share}>
              <FigureField
                figures={figures}
                name="slow_pct"
                label="Slow-release share of the feed"
                unit="%"
                error={problem}
              />
            </div>
          </dd>
        </div>
      </dl>
    </section>
  );
}
