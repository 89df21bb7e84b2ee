import {
  createRootRoute,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
  redirect,
} from "@tanstack/react-router";
import { ApiFailure, type Schemas } from "./api";
import { planQuery } from "./features/morning/queries";
import { meQuery } from "./features/session/queries";
import { SignInPage } from "./features/session/SignInPage";
import { Failed, Loading } from "./features/shell/States";
import { siteQuery } from "./features/site/queries";
import { TABS, type Tab } from "./features/site/tabs";
import { queryClient } from "./queryClient";

// Each view is a part of its own, so that the first page needs little.
const view = {
  begin: lazyRouteComponent(() => import("./features/begin/SiteSteps"), "SiteSteps"),
  addZone: lazyRouteComponent(() => import("./features/begin/ZoneSteps"), "ZoneSteps"),
  beginWeather: lazyRouteComponent(() => import("./features/begin/WeatherStep"), "WeatherStep"),
  invitation: lazyRouteComponent(() => import("./features/people/InvitationPage"), "InvitationPage"),
  shell: lazyRouteComponent(() => import("./features/shell/Shell"), "Shell"),
  morning: lazyRouteComponent(() => import("./features/morning/MorningPage"), "MorningPage"),
  week: lazyRouteComponent(() => import("./features/week/WeekPage"), "WeekPage"),
  runs: lazyRouteComponent(() => import("./features/runs/RunsPage"), "RunsPage"),
  sprinklers: lazyRouteComponent(() => import("./features/sprinklers/SprinklersPage"), "SprinklersPage"),
  wetCheck: lazyRouteComponent(() => import("./features/sprinklers/WetCheckPage"), "WetCheckPage"),
  canTest: lazyRouteComponent(() => import("./features/sprinklers/CanTestPage"), "CanTestPage"),
  quickTest: lazyRouteComponent(() => import("./features/sprinklers/QuickTestPage"), "QuickTestPage"),
  soil: lazyRouteComponent(() => import("./features/soil/SoilPage"), "SoilPage"),
  soilTest: lazyRouteComponent(() => import("./features/soil/SoilTestPage"), "SoilTestPage"),
  report: lazyRouteComponent(() => import("./features/book/ReportPage"), "ReportPage"),
  bookDays: lazyRouteComponent(() => import("./features/book/DaysPage"), "DaysPage"),
  book: lazyRouteComponent(() => import("./features/book/BookPage"), "BookPage"),
  schools: lazyRouteComponent(() => import("./features/schools/SchoolsPage"), "SchoolsPage"),
  stress: lazyRouteComponent(() => import("./features/stress/StressPage"), "StressPage"),
  share: lazyRouteComponent(() => import("./features/stress/SharePage"), "SharePage"),
  decide: lazyRouteComponent(() => import("./features/stress/DecidePage"), "DecidePage"),
  recovery: lazyRouteComponent(() => import("./features/stress/RecoveryPage"), "RecoveryPage"),
  newGrass: lazyRouteComponent(() => import("./features/new-grass/NewGrassPage"), "NewGrassPage"),
  planNewGrass: lazyRouteComponent(() => import("./features/new-grass/PlanPage"), "PlanPage"),
  walk: lazyRouteComponent(() => import("./features/stress/WalkPage"), "WalkPage"),
  settings: lazyRouteComponent(() => import("./features/site/SitePage"), "SitePage"),
  zone: lazyRouteComponent(() => import("./features/site/ZonePage"), "ZonePage"),
  newZone: lazyRouteComponent(() => import("./features/site/ZonePage"), "NewZonePage"),
};

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
  component: view.begin,
});

/** Another site; the first is begun at home. */
const begin = createRoute({
  getParentRoute: () => root,
  path: "/begin",
  beforeLoad: ({ location }) => me(location.href),
  errorComponent: ({ error }) => <Failed message={(error as Error).message} />,
  component: view.begin,
});

const invitation = createRoute({
  getParentRoute: () => root,
  path: "/invitation",
  component: view.invitation,
});

const site = createRoute({
  getParentRoute: () => root,
  path: "/site/$site",
  beforeLoad: ({ location }) => me(location.href),
  errorComponent: ({ error }) => <Failed message={(error as Error).message} />,
  component: view.shell,
});

/** What views of the plan show is asked for while they load. */
const asked = ({ params }: { params: { site: string } }) => {
  void queryClient.prefetchQuery(siteQuery(params.site));
  void queryClient.prefetchQuery(planQuery(params.site));
};

const morning = createRoute({ getParentRoute: () => site, path: "/morning", loader: asked, component: view.morning });
const sprinklers = createRoute({ getParentRoute: () => site, path: "/sprinklers", component: view.sprinklers });
const wetCheck = createRoute({
  getParentRoute: () => site,
  path: "/sprinklers/wet-check",
  component: view.wetCheck,
});
const canTest = createRoute({ getParentRoute: () => site, path: "/sprinklers/$zone", component: view.canTest });
const quickTest = createRoute({
  getParentRoute: () => site,
  path: "/sprinklers/$zone/quick",
  component: view.quickTest,
});
const soil = createRoute({ getParentRoute: () => site, path: "/soil", loader: asked, component: view.soil });
const soilTest = createRoute({ getParentRoute: () => site, path: "/soil/$zone/$test", component: view.soilTest });
const week = createRoute({ getParentRoute: () => site, path: "/week", loader: asked, component: view.week });
const runs = createRoute({ getParentRoute: () => site, path: "/runs", component: view.runs });
const stress = createRoute({ getParentRoute: () => site, path: "/stress", component: view.stress });
const share = createRoute({ getParentRoute: () => site, path: "/stress/share", component: view.share });
const decide = createRoute({ getParentRoute: () => site, path: "/stress/decide", component: view.decide });
const recovery = createRoute({ getParentRoute: () => site, path: "/stress/recovery", component: view.recovery });
const walk = createRoute({ getParentRoute: () => site, path: "/stress/walk", component: view.walk });
const newGrass = createRoute({
  getParentRoute: () => site,
  path: "/new-grass",
  loader: asked,
  component: view.newGrass,
});
const planNewGrass = createRoute({
  getParentRoute: () => site,
  path: "/new-grass/plan",
  validateSearch: (
    search: Record<string, unknown>,
  ): { zone?: number; grass?: Schemas["Grass"]; method?: Schemas["SowingMethod"] } => ({
    ...(typeof search.zone === "number" ? { zone: search.zone } : {}),
    ...(typeof search.grass === "string" ? { grass: search.grass as Schemas["Grass"] } : {}),
    ...(typeof search.method === "string" ? { method: search.method as Schemas["SowingMethod"] } : {}),
  }),
  component: view.planNewGrass,
});
const schools = createRoute({ getParentRoute: () => site, path: "/schools", component: view.schools });
const book = createRoute({
  getParentRoute: () => site,
  path: "/book",
  validateSearch: (search: Record<string, unknown>): { span?: string } =>
    typeof search.span === "string" ? { span: search.span } : {},
  component: view.book,
});
const bookDays = createRoute({
  getParentRoute: () => site,
  path: "/book/days",
  validateSearch: (search: Record<string, unknown>): { span?: string } =>
    typeof search.span === "string" ? { span: search.span } : {},
  component: view.bookDays,
});
const report = createRoute({
  getParentRoute: () => site,
  path: "/book/report",
  validateSearch: (search: Record<string, unknown>): { span?: string } =>
    typeof search.span === "string" ? { span: search.span } : {},
  loader: asked,
  component: view.report,
});
const addZone = createRoute({ getParentRoute: () => site, path: "/add-zone", component: view.addZone });
const newZone = createRoute({ getParentRoute: () => site, path: "/zones/new", component: view.newZone });
const zone = createRoute({ getParentRoute: () => site, path: "/zones/$zone", component: view.zone });
const beginWeather = createRoute({ getParentRoute: () => site, path: "/begin-weather", component: view.beginWeather });
const settings = createRoute({
  getParentRoute: () => site,
  path: "/settings",
  validateSearch: (search: Record<string, unknown>): { tab?: Tab } => {
    const tab = TABS.find((t) => t === search.tab);
    return tab ? { tab } : {};
  },
  component: view.settings,
});

export const router = createRouter({
  routeTree: root.addChildren([
    signIn,
    home,
    begin,
    invitation,
    site.addChildren([
      morning,
      week,
      runs,
      sprinklers,
      wetCheck,
      canTest,
      quickTest,
      soil,
      soilTest,
      schools,
      stress,
      share,
      walk,
      decide,
      recovery,
      newGrass,
      planNewGrass,
      book,
      bookDays,
      report,
      settings,
      addZone,
      newZone,
      zone,
      beginWeather,
    ]),
  ]),
  defaultPendingComponent: () => <Loading what="the page" />,
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
