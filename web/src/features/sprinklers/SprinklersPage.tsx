// What the sprinklers put down: each zone with what was measured, and the way to measure it.
import { Anchor, Button, NativeSelect, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import type { Schemas, ZoneView } from "../../api";
import { amount } from "../../money";
import { dayMonth, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { Term } from "../reasons/Term";
import { useRights } from "../session/rights";
import { Empty, Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, siteQuery, zonesQuery } from "../site/queries";
import classes from "../site/SitePage.module.css";
import { readCount, readKept } from "./draft";
import { Heads } from "./Heads";
import { PlanDrawing } from "./PlanDrawing";
import { type HeadFault, headFaultsQuery, type TestView, testsQuery, useStanding } from "./queries";
import { ResultList } from "./ResultList";
import own from "./Sprinklers.module.css";
import { methodWords, outdatedWords, RATINGS } from "./words";

export function SprinklersPage() {
  const { site } = useParams({ from: "/site/$site" });
  const zones = useQuery(zonesQuery(site));
  const tests = useQuery(testsQuery(site));
  const faults = useQuery(headFaultsQuery(site));
  const catalogue = useQuery(catalogueQuery);
  const view = useQuery(siteQuery(site));
  const asked = [zones, tests, faults, catalogue, view];
  if (asked.some((q) => q.isPending)) return <Loading what="the sprinklers" />;
  if (!zones.data || !tests.data || !faults.data || !catalogue.data || !view.data) {
    const message = asked.find((q) => q.error)?.error?.message ?? "";
    return <Failed message={message} retry={() => asked.forEach((q) => void q.refetch())} />;
  }
  const living = zones.data.filter((z) => !z.zone.active_to);
  if (living.length === 0) {
    return (
      <main>
        <Empty title="No zones yet">
          <Text>Sprinklers are measured zone by zone. Add the first zone under Site.</Text>
        </Empty>
      </main>
    );
  }
  const kinds = catalogue.data.sprinklers;
  return (
    <main className={classes.page}>
      <h1>Sprinklers</h1>
      <Text className="quiet">
        What they put down, and how evenly: measured, or the handbook's guess. Every plan uses the newest test.{" "}
        <Link to="/site/$site/sprinklers/wet-check" params={{ site }}>
          Wet check: walk each zone while it runs
        </Link>
      </Text>
      <Overview
        zones={living}
        tests={tests.data}
        faults={faults.data}
        today={view.data.today}
        currency={view.data.site.currency}
      />
      <ul className={own.zones} aria-label="Zones">
        {living.map((z) => (
          <ZoneTests
            key={z.id}
            site={site}
            zone={z}
            kind={kinds.find((k) => k.key === z.zone.sprinkler)?.name ?? z.zone.sprinkler}
            today={view.data.today}
            tests={tests.data.filter((t) => t.zone === z.id)}
            faults={faults.data.filter((f) => f.zone === z.id)}
          />
        ))}
      </ul>
    </main>
  );
}

/** How good a test found the evenness; in doubt where it may no longer hold, however good it was. */
const standing = (test: TestView, before: string): string =>
  test.outdated ? `${before}in doubt` : test.result.rating ? `${before}${RATINGS[test.result.rating]}` : "";

type OverviewProps = {
  zones: ZoneView[];
  tests: TestView[];
  faults: HeadFault[];
  today: string;
  currency: string | null | undefined;
};

/** All zones at one look, the dearest unevenness first: where to repair next. */
function Overview({ zones, tests, faults, today, currency }: OverviewProps) {
  const units = useUnits();
  const rows = zones
    .map((zone) => ({
      zone,
      rate: tests.find((t) => t.zone === zone.id && t.counts),
      even: tests.find((t) => t.zone === zone.id && t.counts_for_evenness),
      faulty: faults.filter((f) => f.zone === zone.id && !f.mended_on).length,
    }))
    .sort((a, b) => (b.even?.result.week_cost?.volume_l ?? -1) - (a.even?.result.week_cost?.volume_l ?? -1));
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
    <section className={classes.scroll} tabIndex={0} aria-label="All zones, the dearest first">
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Where to repair next</th>
            <th scope="col" className={classes.figure}>
              Unevenness costs this week
            </th>
            <th scope="col" className={classes.figure}>
              <Term name="DU">Evenness</Term>
            </th>
            <th scope="col" className={`${classes.figure} ${classes.optional}`}>
              Rate, {units.label("rate")}
            </th>
            <th scope="col" className={classes.optional}>
              Measured
            </th>
            <th scope="col">Heads</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ zone, rate, even, faulty }) => {
            const cost = even?.result.week_cost;
            const du = even?.result.evenness_du_lq;
            return (
              <tr key={zone.id}>
                <th scope="row">{zone.zone.name}</th>
                <td className={classes.figure}>
                  {cost && cost.need_mm <= 0
                    ? "nothing: no water is planned"
                    : cost
                      ? `${units.show("volume", cost.volume_l)}${cost.money != null ? `, ${amount(cost.money, currency)}` : ""}`
                      : "not known"}
                </td>
                <td className={classes.figure}>{even && du ? `${du.value.toFixed(2)}${standing(even, ", ")}` : "–"}</td>
                <td className={`${classes.figure} ${classes.optional}`}>
                  {rate ? units.figure("rate", rate.result.rate_mm_h.value) : "–"}
                </td>
                <td className={classes.optional}>
                  {even ? dated(even.date, today) : rate ? `${dated(rate.date, today)}, rate only` : "never"}
                </td>
                <td>{faulty > 0 ? `${faulty} to repair` : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

type ZoneProps = {
  site: string;
  zone: ZoneView;
  kind: string;
  today: string;
  tests: TestView[];
  faults: HeadFault[];
};

const dated = (date: string, today: string) =>
  date.slice(0, 4) === today.slice(0, 4) ? dayMonth(date) : `${dayMonth(date)} ${date.slice(0, 4)}`;

function ZoneTests({ site, zone, kind, today, tests, faults }: ZoneProps) {
  const units = useUnits();
  const rights = useRights(site);
  const counts = tests.find((t) => t.counts);
  const even = tests.find((t) => t.counts_for_evenness);
  const kept = readKept(site, zone.id);
  const draft = kept && "draft" in kept ? kept.draft : undefined;
  const name = zone.zone.name;
  return (
    <li className={own.zone}>
      <div className={own.head}>
        <div className={own.zoneName}>
          <h2>{name}</h2>
          <span className="quiet">{kind}</span>
        </div>
        <div className={own.figures}>
          {counts ? (
            <>
              <strong>
                {units.show("rate", counts.result.rate_mm_h.value)}
                {even?.result.evenness_du_lq ? `, even ${even.result.evenness_du_lq.value.toFixed(2)}` : ""}
                {even ? standing(even, ": ") : ""}
              </strong>
              <Measured test={counts} today={today} what="measured" />
              {even && even.id !== counts.id && <Measured test={even} today={today} what="evenness" />}
            </>
          ) : (
            <>
              <strong>Never measured</strong>
              <span className="quiet">
                {zone.zone.rate_mm_h ? `${units.show("rate", zone.zone.rate_mm_h.value)} typed` : "handbook figures"}
              </span>
            </>
          )}
        </div>
        {rights.record && (
          <div className={own.actions}>
            <Button
              component={Link}
              to={`/site/${site}/sprinklers/${zone.id}/quick`}
              variant="default"
              aria-label={`Quick test of ${name}`}
            >
              Quick test
            </Button>
            {zone.zone.sprinkler !== "drip" && (
              <Button
                component={Link}
                to={`/site/${site}/sprinklers/${zone.id}`}
                variant={draft ? "filled" : "outline"}
                aria-label={`${draft ? "Go on testing" : "Test"} ${name}`}
              >
                {draft ? `Go on: ${readCount(draft.test)} of ${draft.test.cans.length}` : "Test with cans"}
              </Button>
            )}
          </div>
        )}
      </div>
      <div className={own.more}>
        {tests.length > 0 && <Tests site={site} zone={name} today={today} tests={tests} manage={rights.manage} />}
        <Heads site={site} zone={zone.id} name={name} today={today} faults={faults} record={rights.record} />
      </div>
    </li>
  );
}

function Measured({ test, today, what }: { test: TestView; today: string; what: string }) {
  return (
    <span className="quiet">
      {what} {dated(test.date, today)}, {methodWords(test.test, test.result)}
      <Outdated test={test} />
    </span>
  );
}

/** Why a test may no longer hold, if there is a reason. */
function Outdated({ test }: { test: TestView }) {
  return test.outdated ? <strong className={own.looks}>; {outdatedWords(test.outdated)}</strong> : null;
}

function Tests(props: { site: string; zone: string; today: string; tests: TestView[]; manage: boolean }) {
  const { tests } = props;
  const standing = useStanding(props.site);
  // The newest with cans beside the one before it.
  const valid = tests.filter((t) => !t.voided);
  const cans = valid
    .filter((t) => t.test.method === "cans")
    .slice(0, 2)
    .reverse();
  const [before, after] = cans;
  const others = tests.filter((t) => !cans.includes(t));
  const set = (test: number, to: Schemas["Standing"]) => standing.mutate({ test, standing: to });
  return (
    <details>
      <summary>
        {before && after
          ? `Before and after: ${dayMonth(before.date)}, ${dayMonth(after.date)}${others.length > 0 ? `, and ${others.length} more` : ""}`
          : tests.length === 1
            ? "The test"
            : `${tests.length} tests`}
      </summary>
      <Refused error={standing.error} />
      {before && after && <Difference before={before.result} after={after.result} />}
      <div className={own.pair}>
        {cans.map((t) => (
          <CanFigure key={t.id} {...props} test={t} onStanding={(to) => set(t.id, to)} />
        ))}
      </div>
      {others.length > 0 && (
        <ul className={own.lines}>
          {others.map((t) => (
            <OtherTest key={t.id} {...props} test={t} onStanding={(to) => set(t.id, to)} />
          ))}
        </ul>
      )}
    </details>
  );
}

/** What changed between two tests: evenness, and minutes for the same soak. */
function Difference({ before, after }: { before: Schemas["TestResult"]; after: Schemas["TestResult"] }) {
  const units = useUnits();
  const [from, to] = [before.evenness_du_lq, after.evenness_du_lq];
  const [longer, shorter] = [before.minutes_for_13_mm, after.minutes_for_13_mm];
  return (
    <p className={own.difference}>
      {from && to && `Evenness ${from.value.toFixed(2)} → ${to.value.toFixed(2)}. `}
      {longer != null &&
        shorter != null &&
        `${units.show("depth", 13)} everywhere: ${Math.round(longer)} → ${Math.round(shorter)} min. `}
      {before.week_cost &&
        after.week_cost &&
        `This week unevenness would cost ${units.show("volume", before.week_cost.volume_l)} → ${units.show("volume", after.week_cost.volume_l)}.`}
    </p>
  );
}

type OneProps = {
  site: string;
  zone: string;
  today: string;
  test: TestView;
  manage: boolean;
  onStanding: (to: Schemas["Standing"]) => void;
};

function CanFigure({ site, zone, today, test: t, manage, onStanding }: OneProps) {
  const units = useUnits();
  if (t.test.method !== "cans") return null;
  return (
    <figure className={own.test}>
      <figcaption>
        <strong>{dated(t.date, today)}</strong>
        {t.who ? `, ${t.who}` : ""}: {units.show("rate", t.result.rate_mm_h.value)}
        {t.result.evenness_du_lq ? `, even ${t.result.evenness_du_lq.value.toFixed(2)}` : ""}
      </figcaption>
      <PlanDrawing
        test={t.test}
        result={t.result}
        numbered
        label={`What the cans of ${zone} caught on ${dayMonth(t.date)}`}
      />
      {t.outdated && <strong className={own.looks}>{sentenceCase(outdatedWords(t.outdated))}</strong>}
      <ResultList result={t.result} site={site} drawn />
      <Anchor underline="always" href={`/api/v1/sites/${site}/sprinkler-tests/${t.id}/cans.csv`} download="cans.csv">
        Its cans, cans.csv
      </Anchor>
      {manage && <StandingSelect test={t} onStanding={onStanding} label="This test" />}
    </figure>
  );
}

function OtherTest({ zone, today, test: t, manage, onStanding }: OneProps) {
  const units = useUnits();
  return (
    <li>
      {dated(t.date, today)}
      {t.who ? `, ${t.who}` : ""}: {units.show("rate", t.result.rate_mm_h.value)} (
      {units.figure("rate", t.result.rate_mm_h.low)} to {units.figure("rate", t.result.rate_mm_h.high)}),{" "}
      {methodWords(t.test, t.result)}
      {t.voided && "; set aside"}
      <Outdated test={t} />
      {manage && (
        <StandingSelect test={t} onStanding={onStanding} label={`Test of ${zone} on ${dated(t.date, today)}`} />
      )}
    </li>
  );
}

function StandingSelect(props: { test: TestView; label: string; onStanding: (to: Schemas["Standing"]) => void }) {
  const { test } = props;
  return (
    <NativeSelect
      label={props.label}
      maw="24rem"
      value={test.voided ? "void" : test.pinned ? "pinned" : "automatic"}
      data={[
        {
          value: "automatic",
          label: test.counts && !test.pinned ? "counts: it is the newest" : "counts while it is the newest",
        },
        { value: "pinned", label: "counts, whatever comes after" },
        { value: "void", label: "does not count" },
      ]}
      onChange={(e) => props.onStanding(e.currentTarget.value as Schemas["Standing"])}
    />
  );
}
