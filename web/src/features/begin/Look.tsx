// What the plan would do with the answers so far, beside every question.
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api";
import { shortDay } from "../../time";
import { useUnits } from "../../units";
import { CoreSample } from "../core-sample/CoreSample";
import { Term } from "../reasons/Term";
import classes from "./Begin.module.css";
import { draftQuery } from "./queries";
import { between } from "./words";

export function Look({ site, draft }: { site: string; draft: Schemas["ZoneDraft"] }) {
  const units = useUnits();
  const drafted = useQuery(draftQuery(site, { ...draft, name: draft.name.trim() || "Lawn" }));
  if (!drafted.data) return null;
  const { zone, first_look: look, plan } = drafted.data;
  const next = plan?.cells.find((cell) => cell.run);
  return (
    <section className={classes.look} aria-label="What the plan would do">
      <CoreSample
        width={34}
        height={92}
        soil={zone.soil}
        taw={plan?.taw_mm ?? 50}
        raw={plan?.cells[2]?.raw_mm ?? 25}
        depletion={plan?.cells[2]?.depletion_start_mm ?? zone.initial_depletion_mm ?? 0}
        dose={next?.run?.net_mm ?? 0}
        depth={0.6}
        blades="fresh"
        tense="today"
        known={plan != null}
        label="A core of this zone: the water in its roots"
      />
      <dl>
        <div>
          <dt>
            On a summer’s day, {look && `${units.show("depth", look.et0_mm)} of`} <Term name="reference ET" />
          </dt>
          <dd>
            {look ? (
              <>
                every {between(look.every_days, "day")}: {between(look.minutes, "minute")}
                {look.passes > 1 && ` in ${look.passes} passes`}
              </>
            ) : (
              "less than the least useful run"
            )}
          </dd>
        </div>
        <div>
          <dt>Now</dt>
          <dd>
            {next?.run
              ? `next ${shortDay(next.date)}, ${Math.round(next.run.run_s / 60)} minutes, ${Math.round(next.run.chance_pct)} % likely`
              : plan
                ? "nothing to water this week"
                : "told once the weather or its normals are known"}
          </dd>
        </div>
      </dl>
    </section>
  );
}
