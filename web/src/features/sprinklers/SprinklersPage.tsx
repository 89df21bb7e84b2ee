// What the sprinklers put down: each zone with what was measured, and the way to measure it.
import { Button, NativeSelect, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import type { Schemas, ZoneView } from "../../api";
import { dayMonth, daysBetween } from "../../time";
import { useUnits } from "../../units";
import { useRights } from "../session/rights";
import { Empty, Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, siteQuery, zonesQuery } from "../site/queries";
import classes from "../site/SitePage.module.css";
import { readCount, readDraft } from "./draft";
import { PlanDrawing } from "./PlanDrawing";
import { type TestView, testsQuery, useStanding } from "./queries";
import own from "./Sprinklers.module.css";
import { doubtWords, patternWords, RATINGS } from "./words";

/** A test older than this is said to be old: heads wear, sink and get moved. */
const OLD_DAYS = 365;

export function SprinklersPage() {
  const { site } = useParams({ from: "/site/$site" });
  const zones = useQuery(zonesQuery(site));
  const tests = useQuery(testsQuery(site));
  const catalogue = useQuery(catalogueQuery);
  if (zones.isPending || tests.isPending || catalogue.isPending) return <Loading what="the sprinklers" />;
  const failed = zones.error ?? tests.error ?? catalogue.error;
  if (failed || !zones.data || !tests.data || !catalogue.data) {
    return <Failed message={failed?.message ?? ""} retry={() => tests.refetch()} />;
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
        What they put down, and how evenly: measured with cans, or the handbook's guess. Every plan uses the newest
        test.
      </Text>
      <ul className={own.zones} aria-label="Zones">
        {living.map((z) => (
          <ZoneTests
            key={z.id}
            site={site}
            zone={z}
            kind={kinds.find((k) => k.key === z.zone.sprinkler)?.name ?? z.zone.sprinkler}
            tests={tests.data.filter((t) => t.zone === z.id)}
          />
        ))}
      </ul>
    </main>
  );
}

function ZoneTests({ site, zone, kind, tests }: { site: string; zone: ZoneView; kind: string; tests: TestView[] }) {
  const units = useUnits();
  const rights = useRights(site);
  const view = useQuery(siteQuery(site));
  const counts = tests.find((t) => t.counts);
  const old = counts && view.data && daysBetween(counts.date, view.data.today) > OLD_DAYS;
  const draft = readDraft(site, zone.id);
  return (
    <li className={own.zone}>
      <div className={own.head}>
        <div>
          <h2>{zone.zone.name}</h2>
          <span className="quiet">{kind}</span>
        </div>
        <div className={own.figures}>
          {counts ? (
            <>
              <strong>
                {units.show("rate", counts.result.rate_mm_h.value)}
                {counts.result.evenness_du_lq ? `, even ${counts.result.evenness_du_lq.value.toFixed(2)}` : ""}
                {counts.result.rating ? `: ${RATINGS[counts.result.rating]}` : ""}
              </strong>
              <span className="quiet">
                measured {dayMonth(counts.date)} {counts.date.slice(0, 4)}, {counts.result.read} cans
                {old && "; over a year ago: measure again"}
              </span>
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
        {rights.record && zone.zone.sprinkler !== "drip" && (
          <Button
            component={Link}
            to={`/site/${site}/sprinklers/${zone.id}`}
            variant={draft ? "filled" : "outline"}
            aria-label={`${draft ? "Go on testing" : "Test"} ${zone.zone.name}`}
          >
            {draft ? `Go on: ${readCount(draft.test)} of ${draft.test.cans.length}` : "Test with cans"}
          </Button>
        )}
      </div>
      {tests.length > 0 && <Tests site={site} zone={zone.zone.name} tests={tests} manage={rights.manage} />}
    </li>
  );
}

function Tests(props: { site: string; zone: string; tests: TestView[]; manage: boolean }) {
  const units = useUnits();
  const standing = useStanding(props.site);
  // The newest beside the one before: after and before.
  const shown = props.tests.filter((t) => !t.voided).slice(0, 2);
  return (
    <details>
      <summary>
        {props.tests.length === 1 ? "The test" : `${props.tests.length} tests; the newest beside the one before`}
      </summary>
      <Refused error={standing.error} />
      <div className={own.pair}>
        {shown.map((t) => (
          <figure key={t.id} className={own.test}>
            <figcaption>
              <strong>{dayMonth(t.date)}</strong>
              {t.who ? `, ${t.who}` : ""}: {units.show("rate", t.result.rate_mm_h.value)}
              {t.result.evenness_du_lq ? `, even ${t.result.evenness_du_lq.value.toFixed(2)}` : ""}
            </figcaption>
            <PlanDrawing
              test={t.test}
              result={t.result}
              label={`What the cans of ${props.zone} caught on ${dayMonth(t.date)}`}
            />
            <ResultList result={t.result} />
            {props.manage && (
              <NativeSelect
                label="This test"
                value={t.pinned ? "pinned" : "automatic"}
                data={[
                  {
                    value: "automatic",
                    label: t.counts ? "counts: it is the newest" : "counts while it is the newest",
                  },
                  { value: "pinned", label: "counts, whatever comes after" },
                  { value: "void", label: "does not count" },
                ]}
                onChange={(e) =>
                  standing.mutate({ test: t.id, standing: e.currentTarget.value as Schemas["Standing"] })
                }
              />
            )}
          </figure>
        ))}
      </div>
    </details>
  );
}

/** What a test says, line by line. */
export function ResultList({ result }: { result: Schemas["TestResult"] }) {
  const units = useUnits();
  const depth = (mm: number) => units.show("depth", mm);
  const soak = depth(13);
  return (
    <>
      <p className={own.legend}>Straw: drier than the mean; blue: wetter. Triangles: heads.</p>
      <ul className={own.lines}>
        {result.evenness_du_lq && (
          <li>
            Evenness {result.evenness_du_lq.value.toFixed(2)} ({result.evenness_du_lq.low.toFixed(2)} to{" "}
            {result.evenness_du_lq.high.toFixed(2)}){result.cu_pct != null ? `, CU ${Math.round(result.cu_pct)} %` : ""}
            {result.scheduling_coefficient != null
              ? `, scheduling coefficient ${result.scheduling_coefficient.toFixed(1)}`
              : ""}
          </li>
        )}
        <li>
          Rate {units.figure("rate", result.rate_mm_h.low)} to {units.show("rate", result.rate_mm_h.high)}
        </li>
        {result.driest_quarter_of_13_mm != null && result.wettest_of_13_mm != null && (
          <li>
            While the average gets {soak}, the driest quarter gets {depth(result.driest_quarter_of_13_mm)} and the
            wettest can {depth(result.wettest_of_13_mm)}
          </li>
        )}
        {result.minutes_for_13_mm != null && result.minutes_for_13_mm_even != null && (
          <li>
            {soak} everywhere takes {Math.round(result.minutes_for_13_mm)} min; even sprinklers would need{" "}
            {Math.round(result.minutes_for_13_mm_even)} min
          </li>
        )}
        {result.patterns.map((p) => {
          const { looks, check } = patternWords(p);
          return (
            <li key={looks}>
              <strong>{looks}</strong> {check}
            </li>
          );
        })}
        {result.doubts.map((d) => (
          <li key={d.doubt} className="quiet">
            {doubtWords(d, units)}
          </li>
        ))}
      </ul>
    </>
  );
}
