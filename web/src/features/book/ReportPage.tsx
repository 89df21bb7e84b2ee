// The season's report: a print of a few pages for an owner, a board or a water office. What was used, why, against what, what was found and repaired, what to do next.
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import type { SiteView } from "../../api";
import { amount } from "../../money";
import { dated, dayMonth, monthName } from "../../time";
import { useUnits } from "../../units";
import { planQuery } from "../morning/queries";
import { Failed, Loading } from "../shell/States";
import { siteQuery } from "../site/queries";
import { WorthList } from "../soil/WorthList";
import { headFaultsQuery, testsQuery, wetChecksQuery } from "../sprinklers/queries";
import { FAULTS, methodWords } from "../sprinklers/words";
import classes from "./Book.module.css";
import { type Book, bookQuery, findingsQuery } from "./queries";
import { Savings } from "./Savings";
import { type Span, spans } from "./spans";
import { allFindings } from "./words";
import { ZoneTable } from "./ZoneTable";

export function ReportPage() {
  const { site } = useParams({ from: "/site/$site/book/report" });
  const view = useQuery(siteQuery(site));
  if (view.isPending) return <Loading what="the report" />;
  if (view.error) return <Failed message={view.error.message} retry={() => view.refetch()} />;
  return <Report site={site} view={view.data} />;
}

function Report({ site, view }: { site: string; view: SiteView }) {
  const { span: key } = useSearch({ from: "/site/$site/book/report" });
  const choices = spans(view.today);
  const span = choices.find((s) => s.key === key) ?? (choices[0] as Span);
  const book = useQuery(bookQuery(site, span.from, span.to));
  if (book.isPending) return <Loading what="the report" />;
  if (book.error) return <Failed message={book.error.message} retry={() => book.refetch()} />;
  return (
    <main className={classes.report}>
      <p className="no-print">
        <Link to="/site/$site/book" params={{ site }} search={{ span: span.key }} activeOptions={{ exact: true }}>
          Back to the book
        </Link>{" "}
        <Button size="xs" variant="outline" onClick={() => window.print()}>
          Print
        </Button>
      </p>
      <h1>Water report: {view.site.name}</h1>
      <p>
        {dated(book.data.from)} to {dated(book.data.to)}; written on {dated(view.today)}.
      </p>
      <Used book={book.data} view={view} />
      <Why book={book.data} view={view} />
      <ZoneTable book={book.data} currency={view.site.currency} />
      <Meters site={site} book={book.data} view={view} />
      <Repairs site={site} book={book.data} />
      <Next site={site} view={view} />
      <p className="quiet">
        Litres are those that came out by each zone’s rate and time; what is assumed ran by the plan and nobody said
        otherwise. Budgets are formulas of water offices; local rules decide what is allowed.
      </p>
    </main>
  );
}

type OfBook = { book: Book; view: SiteView };

function Used({ book, view }: OfBook) {
  const units = useUnits();
  const { total, budgets } = book;
  const share = (of: number) => `${Math.round((100 * total.run_l) / of)} %`;
  return (
    <section>
      <h2>What was used</h2>
      <p>
        <strong>{units.show("volume", total.run_l)}</strong> ran, of {units.show("volume", total.planned_l)} planned
        {total.cost == null ? "" : `; the water cost ${amount(total.cost, view.site.currency)}`}
        {book.fees ? ` and the months’ fees ${amount(book.fees, view.site.currency)}` : ""}.{" "}
        {budgets.mawa_l > 0 &&
          `That is ${share(budgets.mawa_l)} of what California’s rule would allow a landscape like it by the ET of these days (${units.show("volume", budgets.mawa_l)}). `}
        {budgets.watersense_allowance_l != null &&
          budgets.peak_month != null &&
          `In the peak month, ${monthName(budgets.peak_month)}, WaterSense would allow ${units.show("volume", budgets.watersense_allowance_l)}; ${units.show("volume", peakRun(book))} ran.`}
      </p>
      {book.timer_left_l != null && book.timer_left_l > total.run_l && (
        <p>
          A timer that is set once, for the month that took the most, would have run{" "}
          {units.show("volume", book.timer_left_l)} in the same months:{" "}
          <strong>{units.show("volume", book.timer_left_l - total.run_l)}</strong> were saved by watering by need
          {book.next_m3 == null
            ? ""
            : `, ${amount(((book.timer_left_l - total.run_l) / 1000) * book.next_m3, view.site.currency)} at the price of the next water`}
          .
        </p>
      )}
    </section>
  );
}

/** What ran in the peak month. */
const peakRun = (book: Book) => book.months.find((m) => m.from === book.budgets.peak_month)?.sums.run_l ?? 0;

function Why({ book, view }: OfBook) {
  const units = useUnits();
  const depth = units.label("depth");
  const volume = units.label("volume");
  const priced = book.total.cost != null;
  const cells = (s: Book["total"]) => [
    units.figure("depth", s.etc_mm),
    units.figure("depth", s.effective_rain_mm),
    units.figure("depth", s.net_mm),
    units.figure("depth", s.drainage_mm + s.runoff_mm),
    units.figure("volume", s.run_l),
    ...(priced ? [amount(s.cost ?? 0, view.site.currency)] : []),
  ];
  const rows = [
    ...book.months.map((m) => ({ name: `${monthName(m.from)} ${m.from.slice(0, 4)}`, cells: cells(m.sums) })),
    { name: "All", cells: cells(book.total) },
  ];
  const head = [
    `The turf needed, ${depth}`,
    `Rain that entered, ${depth}`,
    `Irrigation that entered, ${depth}`,
    `Ran off or below the roots, ${depth}`,
    `Ran, ${volume}`,
    ...(priced ? ["Cost"] : []),
  ];
  return (
    <section>
      <h2>Why</h2>
      <p>
        The turf needed {units.show("depth", book.total.etc_mm)}; {units.show("depth", book.total.effective_rain_mm)} of
        rain and {units.show("depth", book.total.net_mm)} of irrigation entered the soil. It used{" "}
        {units.show("depth", book.total.eta_mm)}.
      </p>
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Month</th>
            {head.map((h) => (
              <th key={h} scope="col" className={classes.number}>
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} className={row.name === "All" ? classes.total : ""}>
              <th scope="row">{row.name}</th>
              {row.cells.map((cell, i) => (
                <td key={head[i]} className={classes.number}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Meters({ site, book, view }: OfBook & { site: string }) {
  const units = useUnits();
  const findings = useQuery(findingsQuery(site));
  const known = book.metered.filter((m) => m.metered_l != null);
  const metered = known.reduce((sum, m) => sum + (m.metered_l ?? 0), 0);
  const run = known.reduce((sum, m) => sum + m.run_l, 0);
  const said = allFindings(findings.data, units, view.site.time_zone, view.site.currency);
  return (
    <section>
      <h2>What the meters say</h2>
      {known.length === 0 ? (
        <p>No meter was read in these days.</p>
      ) : (
        <p>
          Between the readings {units.show("volume", metered)} flowed and {units.show("volume", run)} ran.
        </p>
      )}
      {said.map((f) => (
        <p key={f.key}>
          <strong>{f.title}.</strong> {f.detail}
        </p>
      ))}
    </section>
  );
}

function Repairs({ site, book }: { site: string; book: Book }) {
  const tests = useQuery(testsQuery(site));
  const faults = useQuery(headFaultsQuery(site));
  const wet = useQuery(wetChecksQuery(site));
  const within = (date: string) => date >= book.from && date <= book.to;
  const name = (zone: number) => book.zones.find((z) => z.zone === String(zone))?.name ?? String(zone);
  const lines = [
    ...(tests.data ?? [])
      .filter((t) => within(t.date) && !t.voided)
      .map((t) => ({ date: t.date, words: `${name(t.zone)}: sprinklers tested, ${methodWords(t.test, t.result)}` })),
    ...(faults.data ?? [])
      .filter((f) => f.mended_on && within(f.mended_on))
      .map((f) => ({
        date: f.mended_on ?? "",
        words: `${name(f.zone)}: head ${f.head} repaired (${FAULTS[f.fault]})`,
      })),
    ...(wet.data?.checks ?? [])
      .filter((c) => within(c.date))
      .map((c) => ({
        date: c.date,
        words: `Wet check of ${c.zones.length === 1 ? "one zone" : `${c.zones.length} zones`}`,
      })),
  ].sort((a, b) => a.date.localeCompare(b.date));
  return (
    <section>
      <h2>Tests and repairs</h2>
      {lines.length === 0 ? (
        <p>None in these days.</p>
      ) : (
        <ul>
          {lines.map((line) => (
            <li key={`${line.date}-${line.words}`}>
              {dayMonth(line.date)}: {line.words}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Next({ site, view }: { site: string; view: SiteView }) {
  const faults = useQuery(headFaultsQuery(site));
  const plan = useQuery(planQuery(site));
  const open = (faults.data ?? []).filter((f) => !f.mended_on);
  const current = plan.data?.current?.plan;
  const name = (zone: number) => current?.zones.find((z) => z.zone === String(zone))?.name ?? String(zone);
  return (
    <section>
      <h2>What to do next</h2>
      {open.length > 0 && (
        <ul aria-label="Heads to repair">
          {open.map((f) => (
            <li key={f.id}>
              {name(f.zone)}: repair head {f.head}, {FAULTS[f.fault]}
            </li>
          ))}
        </ul>
      )}
      <Savings site={site} currency={view.site.currency} most={5} />
      {current && <WorthList plan={current} view={view} site={site} most={3} record={false} />}
    </section>
  );
}
