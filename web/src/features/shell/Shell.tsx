import { Menu, UnstyledButton } from "@mantine/core";
import { useMutationState, useQuery } from "@tanstack/react-query";
import { Link, Outlet, useLocation, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { SiteView } from "../../api";
import { clock, longDay } from "../../time";
import { useUnits } from "../../units";
import { STEPS, stepName, useStep } from "../clock/useStep";
import { AccountModal } from "../session/AccountModal";
import { meQuery } from "../session/queries";
import { roleName, useRights } from "../session/rights";
import { siteQuery } from "../site/queries";
import classes from "./Shell.module.css";
import { useSignOut } from "./useSignOut";

const VIEWS = [
  { to: "/site/$site/morning", name: "Morning" },
  { to: "/site/$site/week", name: "Week" },
  { to: "/site/$site/stress", name: "Stress" },
  { to: "/site/$site/new-grass", name: "New grass", short: "Seed" },
  { to: "/site/$site/sprinklers", name: "Sprinklers", short: "Heads" },
  { to: "/site/$site/soil", name: "Soil" },
  { to: "/site/$site/book", name: "Water book", short: "Water" },
  { to: "/site/$site/settings", name: "Site" },
] as const;

/** Pages that belong to the Site view although their addresses do not begin with its own. */
const OF_SITE = /\/(zones\/|schools|add-zone|begin-weather)/;

export function Shell() {
  const { site } = useParams({ from: "/site/$site" });
  const { data: me } = useQuery(meQuery);
  const { data: view } = useQuery(siteQuery(site));
  const { pathname } = useLocation();
  const name = view?.site.name ?? me?.sites.find((s) => String(s.id) === site)?.name ?? "Fresh Meadow";
  return (
    <>
      <header className={classes.header}>
        <SiteName site={site} name={name} />
        <nav aria-label="Views" className={classes.views}>
          {VIEWS.map((v) => (
            <Link
              key={v.to}
              to={v.to}
              params={{ site }}
              className={classes.view}
              {...("short" in v ? { "aria-label": v.name } : {})}
              {...(v.name === "Site" && OF_SITE.test(pathname) ? { "data-status": "active" } : {})}
            >
              {"short" in v ? (
                <>
                  <span className={classes.wide}>{v.name}</span>
                  <span className={classes.narrow}>{v.short}</span>
                </>
              ) : (
                v.name
              )}
            </Link>
          ))}
        </nav>
        <div className={classes.side}>
          {view && <Clock site={site} view={view} />}
          <Account site={site} view={view} />
        </div>
      </header>
      <Kept />
      <Outlet />
    </>
  );
}

/** What was said without a connection waits here, and says so. */
function Kept() {
  const waiting = useMutationState({
    filters: { status: "pending" },
    select: (mutation) => mutation.state.isPaused,
  }).filter(Boolean).length;
  if (waiting === 0) return null;
  return (
    <p className={classes.kept} role="status">
      Not connected: {waiting === 1 ? "what you said is" : `${waiting} things that you said are`} kept while this page
      stays open, and sent when connected.
    </p>
  );
}

/** The site's name; a way to another where there are several. */
function SiteName({ site, name }: { site: string; name: string }) {
  const { data: me } = useQuery(meQuery);
  const navigate = useNavigate();
  // Of sites with one name the number of their address tells which is which.
  const isAlike = (of: string) => (me?.sites.filter((s) => s.name === of).length ?? 0) > 1;
  const others = me?.sites.filter((s) => String(s.id) !== site) ?? [];
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <UnstyledButton className={classes.site} aria-label={`${name}, sites`}>
          {name} ▾
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        {others.map((s) => (
          <Menu.Item key={s.id} onClick={() => navigate({ to: "/site/$site/morning", params: { site: String(s.id) } })}>
            {s.name} ({roleName(s.role).toLowerCase()}
            {isAlike(s.name) ? `, site ${s.id}` : ""})
          </Menu.Item>
        ))}
        <Menu.Item onClick={() => navigate({ to: "/begin" })}>Another lawn …</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

/** The site's clock; a simulated one can be stepped by a manager. */
function Clock({ site, view }: { site: string; view: SiteView }) {
  const rights = useRights(site);
  const step = useStep(site);
  const text = `${longDay(view.today)}, ${clock(view.now, view.site.time_zone)}`;
  if (!view.simulated_clock) return <span className={classes.clock}>{text}</span>;
  if (!rights.manage) return <span className={classes.clock}>{text} · demo clock</span>;
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <UnstyledButton className={`${classes.button} ${classes.clockButton}`} aria-label={`Demo clock, ${text}`}>
          {step.isPending ? "stepping …" : `${text} · demo clock ▾`}
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <StepItems view={view} step={step} />
      </Menu.Dropdown>
    </Menu>
  );
}

function StepItems({ view, step }: { view: SiteView; step: ReturnType<typeof useStep> }) {
  return (
    <>
      <Menu.Label c="var(--quiet)">Step the demo clock</Menu.Label>
      {STEPS.map((by) => (
        <Menu.Item key={stepName(by)} disabled={step.isPending} onClick={() => step.mutate({ from: view.now, ...by })}>
          {stepName(by)}
        </Menu.Item>
      ))}
    </>
  );
}

function Account({ site, view }: { site: string; view: SiteView | undefined }) {
  const { data: me } = useQuery(meQuery);
  const rights = useRights(site);
  const step = useStep(site);
  const signOut = useSignOut();
  const units = useUnits();
  const [open, setOpen] = useState(false);
  const other = units.system === "metric" ? "us" : "metric";
  return (
    <>
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
            {me?.name}, {roleName(rights.role).toLowerCase()}
            <br />
            {me?.email}
          </Menu.Label>
          <Menu.Item onClick={() => setOpen(true)}>Password and devices</Menu.Item>
          <Menu.Item onClick={() => signOut.mutate()}>Sign out</Menu.Item>
          {view?.simulated_clock && rights.manage && (
            <div className={classes.phoneOnly}>
              <StepItems view={view} step={step} />
            </div>
          )}
        </Menu.Dropdown>
      </Menu>
      <AccountModal opened={open} onClose={() => setOpen(false)} />
    </>
  );
}

const initials = (name: string) =>
  name
    .split(" ")
    .map((word) => word[0] ?? "")
    .join("")
    .slice(0, 2) || "·";
