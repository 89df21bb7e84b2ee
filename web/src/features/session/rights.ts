// What the reader's role on a site allows. The server decides; this only hides what it would refuse.
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api";
import { meQuery } from "./queries";

export type Role = Schemas["Role"];

const ORDER: Role[] = ["viewer", "crew", "manager", "owner"];

export const ROLES: { role: Role; name: string; may: string }[] = [
  { role: "viewer", name: "Viewer", may: "reads" },
  { role: "crew", name: "Crew", may: "also notes readings and runs" },
  { role: "manager", name: "Manager", may: "also changes zones, hours, weather and the week, and publishes it" },
  { role: "owner", name: "Owner", may: "also decides who belongs to the site" },
];

export const roleName = (role: Role) => ROLES.find((r) => r.role === role)?.name ?? role;

/** The reader's rights on a site. */
export function useRights(site: string) {
  const { data: me } = useQuery(meQuery);
  const role = me?.sites.find((s) => String(s.id) === site)?.role ?? "viewer";
  const rank = ORDER.indexOf(role);
  return { role, record: rank >= 1, manage: rank >= 2, own: rank >= 3 };
}
