// Said on the Morning where what is published, and so runs, is not what the morning's plan says, or the controller does not run it.
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { WeekPlan } from "../../api";
import { publishingQuery } from "./queries";
import { changesOf, controllerTrouble, standing } from "./words";

export function Differs({ site, plan, className }: { site: string; plan: WeekPlan; className: string | undefined }) {
  const { data: publishing } = useQuery(publishingQuery(site));
  if (!publishing) return null;
  const is = standing(publishing, plan.today);
  const trouble = controllerTrouble(publishing.controller, is === "same" || is === "changed");
  if (is !== "changed" && !trouble) return null;
  const changes = changesOf(publishing);
  const drains = publishing.since?.drains.length ?? 0;
  return (
    <div className={className} role="status">
      <span>
        {is === "changed" &&
          `What runs is the published week. This plan changes ${changes === 1 ? "one watering" : `${changes} waterings`} of it${
            drains > 0 ? `, and ${drains === 1 ? "one" : drains} of it would drain by now` : ""
          }. `}
        {trouble && `${trouble} `}
        <Link to="/site/$site/week" params={{ site }}>
          {is === "changed" ? "See what changed" : "See the week"}
        </Link>
      </span>
    </div>
  );
}
