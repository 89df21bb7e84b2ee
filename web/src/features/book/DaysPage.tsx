// Day by day and zone by zone: planned, run, metered, and what stays unexplained, with what to look at first.
import { NativeSelect, UnstyledButton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { Fragment, lazy, Suspense, useState } from "react";
import type { SiteView } from "../../api";
import { amount } from "../../money";
import { longDay, sentenceCase, shortDay } from "../../time";
import { useUnits } from "../../units";
import { Failed, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import classes from "./Book.module.css";
import { daysQuery, findingsQuery, metersQuery, type ReconciledDay, type Reconciliation } from "./queries";
import { months, type Span } from "./spans";
import { TakeRate } from "./TakeRate";
import { allFindings, isClose, namedWords } from "./words";

const DayChart = lazy(() => import("./DayChart"));

export function DaysPage() {
  const { site } = useParams({ from: "/site/$site/book/days" });
  const view = useQuery(siteQuery(site));
  if (view.isPending) return <Loading what="the days" />;
  if (view.error) return <Failed message={view.error.message} retry={() => view.refetch()} />;
  return <Opened site={site} view={view.data} />;
}

function Opened({ site, view }: { site: string; view: SiteView }) {
  const { span: key } = useSearch({ from: "/site/$site/book/days" });
  const navigate = useNavigate();
  const choices = months(view.today);
  const span = choices.find((s) => s.key === key) ?? (choices[0] as Span);
  const [meter, setMeter] = useState<number>();
  const days = useQuery(daysQuery(site, span.from, span.to, meter));
  const heard = days.data?.heard ?? [];
  return (
    <main className={classes.page}>
      <div className={classes.head}>
        <h1>Day by day</h1>
        <NativeSelect
          aria-label="Month"
          data={choices.map((s) => ({ value: s.key, label: s.label }))}
          value={span.key}
          onChange={(e) => {
            setMeter(undefined);
            void navigate({ to: "/site/$site/book/days", params: { site }, search: { span: e.currentTarget.value } });
          }}
        />
        {heard.length > 1 && (
          <NativeSelect
            aria-label="Flow meter"
            data={heard.map((m) => ({ value: String(m.meter), label: m.name }))}
            value={String(days.data?.meter ?? "")}
            onChange={(e) => setMeter(Number(e.currentTarget.value))}
          />
        )}
        <p className="no-print">
          <Link to="/site/$site/book" params={{ site }} search={{ span: span.key }} activeOptions={{ exact: true }}>
            Back to the book
          </Link>
        </p>
      </div>
      {days.isPending ? (
        <Loading what="the days" />
      ) : days.error ? (
        <Failed message={days.error.message} retry={() => days.refetch()} />
      ) : (
        <Days site={site} view={view} found={days.data} />
      )}
    </main>
  );
}

function Days({ site, view, found }: { site: string; view: SiteView; found: Reconciliation }) {
  const meter = found.heard.find((m) => m.meter === found.meter)?.name;
  const empty = found.days.every((d) => d.run_l === 0 && d.planned_l === 0 && !d.metered);
  return (
    <>
      {meter ? (
        <p className={classes.headline}>
          Each day’s runs beside what {meter} counted. A run that goes on after midnight is the day’s on which it began.
        </p>
      ) : (
        <p className={classes.headline}>
          No flow meter was heard in these days: what flowed is known between the readings of a meter only (Water book).
        </p>
      )}
      <First site={site} view={view} />
      {empty ? (
        <p>Nothing was planned, and nothing ran.</p>
      ) : (
        <>
          <Suspense fallback={<Loading what="the chart" />}>
            <DayChart days={found.days} />
          </Suspense>
          <DayTable site={site} view={view} found={found} meter={meter} />
          <p className="no-print">
            <a href={csvOf(site, found)}>Save these days as a file</a>
          </p>
        </>
      )}
    </>
  );
}

/** Where the days are as a file. */
function csvOf(site: string, found: Reconciliation): string {
  const query = new URLSearchParams({
    from: found.days[0]?.date ?? "",
    to: found.days[found.days.length - 1]?.date ?? "",
    ...(found.meter == null ? {} : { meter: String(found.meter) }),
  });
  return `/api/v1/sites/${site}/days.csv?${query}`;
}

/** What the meters say today, what takes the most water first. */
function First({ site, view }: { site: string; view: SiteView }) {
  const units = useUnits();
  const findings = useQuery(findingsQuery(site));
  const said = allFindings(findings.data, units, view.site.time_zone, view.site.currency);
  if (said.length === 0) return null;
  return (
    <section aria-label="Look at this first">
      <h2 className={classes.first}>Look at this first</h2>
      <ol className={classes.ranked}>
        {said.map((f) => (
          <li key={f.key}>
            <strong>{f.title}.</strong> {f.detail} {f.offers && <TakeRate site={site} offers={f.offers} />}
          </li>
        ))}
      </ol>
    </section>
  );
}

type TableProps = { site: string; view: SiteView; found: Reconciliation; meter: string | undefined };

function DayTable({ site, view, found, meter }: TableProps) {
  const units = useUnits();
  const meters = useQuery(metersQuery(site));
  const [open, setOpen] = useState<string>();
  const currency = view.site.currency;
  const label = units.label("volume");
  const priced = found.days.some((d) => d.cost != null);
  const pulse = meters.data?.find((m) => m.id === found.meter)?.meter.pulse_l ?? 0;
  const heading = (text: string) => (
    <th scope="col" className={classes.number}>
      {text}
    </th>
  );
  const days = [...found.days].reverse().filter((d) => d.planned_l > 0 || d.run_l > 0 || d.metered);
  const columns = 3 + (meter ? 2 : 0) + (priced ? 1 : 0);
  return (
    <section>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
      <section className={classes.scroll} tabIndex={0} aria-label="The days">
        <table className={`${classes.table} ${classes.days}`}>
          <caption>{label} a day; a day opens its zones</caption>
          <thead>
            <tr>
              <th scope="col">Day</th>
              {heading("Planned")}
              {heading("Ran")}
              {meter && heading("Metered")}
              {meter && heading("Not explained")}
              {priced && heading("What ran cost")}
              {meter && (
                <th scope="col" className={classes.beside}>
                  What explains it
                </th>
              )}
            </tr>
          </thead>
          <tbody>
            {days.map((d) => (
              <Fragment key={d.date}>
                <DayRow
                  day={d}
                  meter={meter}
                  priced={priced}
                  currency={currency}
                  pulse={pulse}
                  open={open === d.date}
                  columns={columns}
                  toggle={() => setOpen(open === d.date ? undefined : d.date)}
                />
                {open === d.date && <ZoneRows day={d} meter={meter} priced={priced} currency={currency} />}
              </Fragment>
            ))}
          </tbody>
        </table>
      </section>
    </section>
  );
}

type RowProps = {
  day: ReconciledDay;
  meter: string | undefined;
  priced: boolean;
  currency: string | null | undefined;
};

function DayRow({
  day,
  meter,
  priced,
  currency,
  pulse,
  open,
  columns,
  toggle,
}: RowProps & { pulse: number; open: boolean; columns: number; toggle: () => void }) {
  const units = useUnits();
  const figure = (litres: number) => units.figure("volume", litres);
  const metered = day.metered;
  const odd = metered && !isClose(metered.not_explained_l, day.run_l, 2 * pulse);
  const explained = useExplained(day);
  const total = metered ? metered.runs_l + metered.nobody_l : 0;
  // As printed, what ran and what is not explained come to what was metered, but for what ran unheard.
  const [ran, beside] = metered
    ? units.account("volume", [day.run_l, metered.not_explained_l, -unheard(day)], total)
    : [figure(day.run_l), ""];
  return (
    <>
      <tr>
        <th scope="row">
          {day.zones.length > 0 ? (
            <UnstyledButton
              className={classes.day}
              aria-expanded={open}
              aria-label={longDay(day.date)}
              onClick={toggle}
            >
              {shortDay(day.date)}
            </UnstyledButton>
          ) : (
            shortDay(day.date)
          )}
        </th>
        <td className={classes.number}>{figure(day.planned_l)}</td>
        <td className={classes.number}>{ran}</td>
        {meter && <td className={classes.number}>{metered ? figure(total) : "not heard"}</td>}
        {meter && <td className={classes.number}>{odd ? <strong>{beside}</strong> : beside}</td>}
        {priced && <td className={classes.number}>{amount(day.cost ?? 0, currency)}</td>}
        {meter && <td className={classes.beside}>{explained}</td>}
      </tr>
      {explained && (
        <tr className={classes.below}>
          <td colSpan={columns}>
            <div>{explained}</div>
          </td>
        </tr>
      )}
    </>
  );
}

/** Minutes of a day of which so many are missing are told: a quarter of an hour. */
const MISSING_MIN = 15;

/** What ran of a day in minutes that were not heard, L. */
const unheard = ({ run_l, metered }: ReconciledDay) =>
  metered ? run_l + metered.not_explained_l - metered.runs_l - metered.nobody_l : 0;

/** Less than this is rounding and the step of a dial, L. */
const UNHEARD_L = 100;

/** What explains a day, what takes the most water first; and how much of it was not heard. */
function useExplained(day: ReconciledDay): string {
  const units = useUnits();
  if (!day.metered) return "";
  const missing = 1440 - day.metered.heard_min;
  const words = day.metered.found.map((f) => {
    const litres = units.show("volume", Math.abs(f.litres));
    return `${namedWords(f.named.kind, f.zone_name ?? "")}, ${litres}${f.litres < 0 ? " missing" : ""}`;
  });
  const silent = unheard(day);
  if (silent >= UNHEARD_L) words.push(`${units.show("volume", silent)} of what ran was not heard`);
  // The days on which the clock is set have an hour more or less.
  const said = [...words, ...(missing >= 60 + MISSING_MIN ? [`${Math.round(missing / 60)} h were not heard`] : [])];
  return sentenceCase(said.join("; "));
}

function ZoneRows({ day, meter, priced, currency }: RowProps) {
  const units = useUnits();
  const figure = (litres: number) => units.figure("volume", litres);
  return day.zones.map((z) => {
    const expected = z.run_l * (z.heard ?? 0);
    const notes = [
      ...(z.assumed ? ["assumed: nobody said otherwise"] : []),
      ...(z.unmeasured ? ["a hose nobody measured"] : []),
      ...(meter && z.heard != null && z.heard > 0 && z.heard < 0.995 ? [`${Math.round(100 * z.heard)} % heard`] : []),
    ];
    return (
      <tr key={z.zone} className={classes.ofDay}>
        <th scope="row">
          {z.name}
          {notes.length > 0 && <span className="quiet"> {notes.join(", ")}</span>}
        </th>
        <td className={classes.number}>{figure(z.planned_l)}</td>
        <td className={classes.number}>{figure(z.run_l)}</td>
        {meter && <td className={classes.number}>{z.metered_l == null ? "" : figure(z.metered_l)}</td>}
        {meter && <td className={classes.number}>{z.metered_l == null ? "" : figure(z.metered_l - expected)}</td>}
        {priced && <td className={classes.number}>{amount(z.cost ?? 0, currency)}</td>}
        {meter && <td className={classes.beside} />}
      </tr>
    );
  });
}
