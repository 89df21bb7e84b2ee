import { createRootRoute, createRoute, createRouter, Outlet, redirect } from "@tanstack/react-router";
import { ApiFailure } from "./api";
import { MorningPage } from "./features/morning/MorningPage";
import { InvitationPage } from "./features/people/InvitationPage";
import { RunsPage } from "./features/runs/RunsPage";
import { meQuery } from "./features/session/queries";
import { SignInPage } from "./features/session/SignInPage";
import { NoSitePage } from "./features/shell/NoSitePage";
import { Shell } from "./features/shell/Shell";
import { Failed } from "./features/shell/States";
import { SitePage, TABS, type Tab } from "./features/site/SitePage";
import { CanTestPage } from "./features/sprinklers/CanTestPage";
import { QuickTestPage } from "./features/sprinklers/QuickTestPage";
import { SprinklersPage } from "./features/sprinklers/SprinklersPage";
import { WeekPage } from "./features/week/WeekPage";
import { queryClient } from "./queryClient";

const root = createRootRoute({
  component: Outlet,
  notFoundComponent: () => <Failed message="There is no such page." />,
});

/** Who is signed in; a signed-out reader is sent to sign in and comes back here. */
async function me(href: string) {
  try {
    return await queryClient.ensureQueryData(meQuery);
  } catch (error) {
    if (error instanceof ApiFailure && error.status === 401) {
      throw redirect({ to: "/sign-in", search: { back: href } });
    }
    throw error;
  }
}

const signIn = createRoute({
  getParentRoute: () => root,
  path: "/sign-in",
  validateSearch: (search: Record<string, unknown>): { back?: string } => {
    // Only paths of our own: a link must not send a fresh session elsewhere.
    const back = search.back;
    return typeof back === "string" && /^\/(?![/\\])/.test(back) ? { back } : {};
  },
  component: SignInPage,
});

const home = createRoute({
  getParentRoute: () => root,
  path: "/",
  beforeLoad: async ({ location }) => {
    const first = (await me(location.href)).sites[0];
    if (first) throw redirect({ to: "/site/$site/morning", params: { site: String(first.id) } });
  },
  errorComponent: ({ error }) => <Failed message={(error as Error).message} />,
  component: NoSitePage,
});

const invitation = createRoute({
  getParentRoute: () => root,
  path: "/invitation",
  component: InvitationPage,
});

const site = createRoute({
  getParentRoute: () => root,
  path: "/site/$site",
  beforeLoad: ({ location }) => me(location.href),
  errorComponent: ({ error }) => <Failed message={(error as Error).message} />,
  component: Shell,
});

const morning = createRoute({ getParentRoute: () => site, path: "/morning", component: MorningPage });
const sprinklers = createRoute({ getParentRoute: () => site, path: "/sprinklers", component: SprinklersPage });
const canTest = createRoute({ getParentRoute: () => site, path: "/sprinklers/$zone", component: CanTestPage });
const quickTest = createRoute({
  getParentRoute: () => site,
  path: "/sprinklers/$zone/quick",
  component: QuickTestPage,
});
const week = createRoute({ getParentRoute: () => site, path: "/week", component: WeekPage });
const runs = createRoute({ getParentRoute: () => site, path: "/runs", component: RunsPage });
const settings = createRoute({
  getParentRoute: () => site,
  path: "/settings",
  validateSearch: (search: Record<string, unknown>): { tab?: Tab } => {
    const tab = TABS.find((t) => t === search.tab);
    return tab ? { tab } : {};
  },
  component: SitePage,
});

export const router = createRouter({
  routeTree: root.addChildren([
    signIn,
    home,
    invitation,
    site.addChildren([morning, week, runs, sprinklers, canTest, quickTest, settings]),
  ]),
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
