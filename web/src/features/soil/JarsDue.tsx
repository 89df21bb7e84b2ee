// Jars that stand and settle: what is to be read of them, and when.
import { Link } from "@tanstack/react-router";
import type { SiteView, WeekPlan } from "../../api";
import { whenAt } from "../../time";
import { type Jar, jars } from "./kept";

const READ: Record<Jar["next"], string> = {
  sand_to_mm: "the sand",
  silt_to_mm: "the silt",
  clay_to_mm: "the clay",
};

export function JarsDue({ site, plan, view }: { site: string; plan: WeekPlan; view: SiteView }) {
  return jars(site).map((jar) => (
    <li key={jar.zone}>
      <strong>Jar of {plan.zones.find((z) => z.zone === String(jar.zone))?.name ?? "a zone"}</strong>
      <span>
        {jar.due <= view.now
          ? `Read the top of ${READ[jar.next]} now. `
          : `The top of ${READ[jar.next]} is due ${whenAt(jar.due, view.today, view.site.time_zone)}. `}
        <Link to="/site/$site/soil/$zone/$test" params={{ site, zone: String(jar.zone), test: "jar" }}>
          To the jar
        </Link>
      </span>
    </li>
  ));
}
