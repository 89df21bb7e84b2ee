import { Menu, UnstyledButton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, Outlet, useParams } from "@tanstack/react-router";
import { clock, longDay } from "../../time";
import { useUnits } from "../../units";
import { meQuery } from "../session/queries";
import { siteQuery } from "../site/queries";
import classes from "./Shell.module.css";
import { useSignOut } from "./useSignOut";

const VIEWS = [
  { to: "/site/$site/morning", name: "Morning" },
  { to: "/site/$site/week", name: "Week" },
  { to: "/site/$site/settings", name: "Site" },
] as const;

export function Shell() {
  const { site } = useParams({ from: "/site/$site" });
  const { data: me } = useQuery(meQuery);
  const { data: view } = useQuery(siteQuery(site));
  const signOut = useSignOut();
  const units = useUnits();
  const name = me?.sites.find((s) => String(s.id) === site)?.name ?? "Fresh Meadow";
  const other = units.system === "metric" ? "us" : "metric";
  return (
    <>
      <header className={classes.header}>
        <span className={classes.site}>{view?.site.name ?? name}</span>
        <nav aria-label="Views" className={classes.views}>
          {VIEWS.map((v) => (
            <Link key={v.to} to={v.to} params={{ site }} className={classes.view}>
              {v.name}
            </Link>
          ))}
        </nav>
        <div className={classes.side}>
          {view && (
            <span className={classes.clock}>
              {longDay(view.today)}, {clock(view.now, view.site.time_zone)}
              {view.simulated_clock ? " · demo clock" : ""}
            </span>
          )}
          <UnstyledButton
            className={classes.button}
            aria-label={units.system === "metric" ? "Use US units" : "Use metric units"}
            onClick={() => units.setSystem(other)}
          >
            {units.system === "metric" ? "US units" : "metric units"}
          </UnstyledButton>
          <Menu position="bottom-end">
            <Menu.Target>
              <UnstyledButton className={classes.button} aria-label={`Account of ${me?.name ?? ""}`}>
                {initials(me?.name ?? "")}
              </UnstyledButton>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Label c="var(--quiet)">
                {me?.name}
                <br />
                {me?.email}
              </Menu.Label>
              <Menu.Item onClick={() => signOut.mutate()}>Sign out</Menu.Item>
            </Menu.Dropdown>
          </Menu>
        </div>
      </header>
      <Outlet />
    </>
  );
}

const initials = (name: string) =>
  name
    .split(" ")
    .map((word) => word[0] ?? "")
    .join("")
    .slice(0, 2) || "·";
