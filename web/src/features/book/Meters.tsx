// The meters: the last figure of each, reading it, what it says beside what ran, and the readings that may be corrected.
import { Button, Group, Modal, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas, SiteView } from "../../api";
import { dated, localDate, longDay, moment, whenAt } from "../../time";
import { useUnits } from "../../units";
import { ImportFile } from "../files/ImportFile";
import { useRights } from "../session/rights";
import { Failed, Loading, Refused } from "../shell/States";
import { zonesQuery } from "../site/queries";
import classes from "./Book.module.css";
import { MeterForm } from "./MeterForm";
import {
  type Book,
  findingsQuery,
  type MeterView,
  metersQuery,
  type Reading,
  readingsQuery,
  useVoidReading,
} from "./queries";
import { ReadMeter } from "./ReadMeter";
import { TakeRate } from "./TakeRate";
import { allFindings, countWords, isClose, registerWords } from "./words";

type Props = { site: string; view: SiteView; book: Book | undefined };

export function Meters({ site, view, book }: Props) {
  const meters = useQuery(metersQuery(site));
  const { manage } = useRights(site);
  const [form, setForm] = useState<{ meter?: MeterView }>();
  if (meters.isPending) return <Loading what="the meters" />;
  if (meters.error) return <Failed message={meters.error.message} retry={() => meters.refetch()} />;
  const there = meters.data.filter((m) => !m.meter.active_to || m.meter.active_to >= view.today);
  const gone = meters.data.filter((m) => !there.includes(m));
  return (
    <section className={classes.meters} aria-label="Meters">
      <h2>Meters</h2>
      {there.length === 0 && (
        <Text>
          None. With the readings of a meter the book tells whether what ran is what flowed: a leak, or a valve that
          does not close, shows as water that nothing explains.
        </Text>
      )}
      {there.map((m) => (
        <OneMeter key={m.id} site={site} view={view} book={book} meter={m} onChange={() => setForm({ meter: m })} />
      ))}
      {manage && (
        <Button className="no-print" variant="outline" size="xs" onClick={() => setForm({})}>
          Add a meter
        </Button>
      )}
      {gone.length > 0 && (
        <p className="quiet">
          Taken out:{" "}
          {gone.map((m) => `${m.meter.name} (until ${m.meter.active_to ? dated(m.meter.active_to) : ""})`).join(", ")}.
          Their readings stay in the book.
        </p>
      )}
      <Modal
        opened={form !== undefined}
        onClose={() => setForm(undefined)}
        title={form?.meter ? form.meter.meter.name : "A meter"}
        closeButtonProps={{ "aria-label": "Close" }}
      >
        {form && <MeterForm site={site} existing={form.meter} onDone={() => setForm(undefined)} />}
      </Modal>
    </section>
  );
}

type OneProps = Props & { meter: MeterView; onChange: () => void };

function OneMeter({ site, view, book, meter, onChange }: OneProps) {
  const { record, manage } = useRights(site);
  const zones = useQuery(zonesQuery(site));
  const [reading, setReading] = useState(false);
  const [all, setAll] = useState(false);
  const timeZone = view.site.time_zone;
  const fed = meter.meter.feeds ?? [];
  const names = fed.map((id) => zones.data?.find((z) => String(z.id) === id)?.zone.name ?? id);
  const feeds = fed.length === 0 ? "all zones" : names.join(", ");
  return (
    <article className={classes.meter}>
      <h3>{meter.meter.name}</h3>
      <p className="quiet">
        Feeds {feeds}
        {meter.meter.house ? " and the house" : ""}.
      </p>
      {meter.last ? (
        <p>
          <span className={classes.register}>{registerWords(meter.meter, meter.last.register)}</span>{" "}
          {countWords(meter.meter)}
          <br />
          <span className="quiet">
            {moment(meter.last.at, timeZone)}
            {meter.last.who ? `, ${meter.last.who}` : ""}
          </span>
        </p>
      ) : (
        <p>Not read yet: the first reading is where it begins.</p>
      )}
      {meter.meter.pulse_l != null && (
        <p className="quiet">
          {meter.heard_until
            ? `Its flow was last heard ${whenAt(meter.heard_until, view.today, timeZone)}.`
            : "Its flow was never heard: nobody sends what it counts."}
        </p>
      )}
      {reading ? (
        <ReadMeter site={site} meter={meter} now={view.now} timeZone={timeZone} onDone={() => setReading(false)} />
      ) : (
        <Group gap="xs" className="no-print">
          {record && (
            <Button size="md" onClick={() => setReading(true)} aria-label={`Read ${meter.meter.name}`}>
              Read it
            </Button>
          )}
          <Button
            size="md"
            variant="outline"
            onClick={() => setAll(true)}
            aria-label={`Readings of ${meter.meter.name}`}
          >
            All readings, files
          </Button>
          {manage && (
            <Button size="md" variant="subtle" onClick={onChange} aria-label={`Change ${meter.meter.name}`}>
              Change
            </Button>
          )}
        </Group>
      )}
      <Said site={site} view={view} meter={meter} />
      {book && <BesideRuns book={book} meter={meter} timeZone={timeZone} />}
      <Modal
        opened={all}
        onClose={() => setAll(false)}
        size="lg"
        title={`Readings and files of ${meter.meter.name}`}
        closeButtonProps={{ "aria-label": "Close the readings" }}
      >
        <Readings site={site} view={view} meter={meter} />
      </Modal>
    </article>
  );
}

/** What the meter says beside the runs, where they do not agree. */
function Said({ site, view, meter }: { site: string; view: SiteView; meter: MeterView }) {
  const units = useUnits();
  const findings = useQuery(findingsQuery(site));
  const said = allFindings(findings.data, units, view.site.time_zone, view.site.currency);
  const own = said.filter((f) => f.meter === String(meter.id));
  return own.map((f) => (
    <div key={f.key} className={classes.said}>
      <strong>{f.title}.</strong> {f.detail} {f.offers && <TakeRate site={site} offers={f.offers} />}
    </div>
  ));
}

/** Between readings: what flowed beside what ran. */
function BesideRuns({ book, meter, timeZone }: { book: Book; meter: MeterView; timeZone: string }) {
  const units = useUnits();
  const between = book.metered.filter((m) => m.meter === String(meter.id)).slice(-8);
  if (between.length === 0) return null;
  const label = units.label("volume");
  const step = meter.count_l / 10 ** (meter.meter.decimals ?? 0);
  return (
    <table className={classes.table}>
      <caption>Between readings, {label}</caption>
      <thead>
        <tr>
          <th scope="col">Up to</th>
          <th scope="col" className={classes.number}>
            Metered
          </th>
          <th scope="col" className={classes.number}>
            Ran
          </th>
          <th scope="col" className={classes.number}>
            {meter.meter.house ? "House and others" : "Not explained"}
          </th>
        </tr>
      </thead>
      <tbody>
        {between.map((m) => {
          const rest = m.metered_l == null ? undefined : m.metered_l - m.run_l;
          // Rounded so that the row adds up as it is printed.
          const [ran, left, all] = units.account("volume", [m.run_l, rest ?? 0], m.run_l + (rest ?? 0));
          const odd = rest !== undefined && !meter.meter.house && !isClose(rest, m.run_l, step);
          return (
            <tr key={m.to}>
              <th scope="row">{longDay(localDate(m.to, timeZone))}</th>
              <td className={classes.number}>{m.metered_l == null ? "not known" : all}</td>
              <td className={classes.number}>{ran}</td>
              <td className={classes.number}>{rest === undefined ? "" : odd ? <strong>{left}</strong> : left}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Readings({ site, view, meter }: { site: string; view: SiteView; meter: MeterView }) {
  const units = useUnits();
  const { record } = useRights(site);
  const readings = useQuery(readingsQuery(site, meter.id));
  const remove = useVoidReading(site);
  const [correcting, setCorrecting] = useState<Reading>();
  if (readings.isPending) return <Loading what="the readings" />;
  if (readings.error) return <Failed message={readings.error.message} retry={() => readings.refetch()} />;
  const timeZone = view.site.time_zone;
  if (correcting) {
    return (
      <ReadMeter
        site={site}
        meter={meter}
        now={view.now}
        timeZone={timeZone}
        corrects={correcting}
        onDone={() => setCorrecting(undefined)}
      />
    );
  }
  if (readings.data.length === 0) {
    return (
      <>
        <Text>None yet.</Text>
        <Files site={site} meter={meter} />
      </>
    );
  }
  return (
    <>
      <Refused error={remove.error} />
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
      <section className={classes.scroll} tabIndex={0} aria-label="Readings">
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">Read</th>
              <th scope="col" className={classes.number}>
                Figure
              </th>
              <th scope="col" className={classes.number}>
                Since the one before, {units.label("volume")}
              </th>
              <th scope="col" />
            </tr>
          </thead>
          <tbody>
            {readings.data.map((r) => (
              <tr key={r.id}>
                <th scope="row">
                  {moment(r.at, timeZone)}
                  <span className="quiet">{r.who ? ` ${r.who}` : ""}</span>
                  {r.photo && (
                    <>
                      {" "}
                      <a href={`/api/v1/sites/${site}/readings/${r.id}/photo`} target="_blank" rel="noreferrer">
                        photo
                      </a>
                    </>
                  )}
                </th>
                <td className={classes.number}>
                  {registerWords(meter.meter, r.register)}
                  {r.follows.follows === "rolled_over" && <span className="quiet"> began at 0 again</span>}
                  {r.follows.follows === "new_meter" && <span className="quiet"> new meter</span>}
                </td>
                <td className={classes.number}>{r.used_l == null ? "" : units.figure("volume", r.used_l)}</td>
                <td>
                  {record && (
                    <Group gap={4} wrap="nowrap">
                      <Button
                        size="compact-sm"
                        variant="outline"
                        onClick={() => setCorrecting(r)}
                        aria-label={`Correct ${r.register}`}
                      >
                        Correct
                      </Button>
                      <Button
                        size="compact-sm"
                        variant="subtle"
                        loading={remove.isPending && remove.variables === r.id}
                        onClick={() => remove.mutate(r.id)}
                        aria-label={`Take ${r.register} out`}
                      >
                        Take out
                      </Button>
                    </Group>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <Files site={site} meter={meter} />
    </>
  );
}

/** What goes out and comes in as files: readings of all meters, minutes of this one. */
function Files({ site, meter }: { site: string; meter: MeterView }) {
  const { record, manage } = useRights(site);
  const path = `/api/v1/sites/${site}`;
  const minutes = meter.meter.pulse_l != null;
  return (
    <Stack gap="sm" mt="md">
      <h3>Files</h3>
      <Text>
        <a href={`${path}/meter-readings.csv`}>Save the readings of all meters as a file</a>
        {" · "}
        <a href={`${path}/meter-readings.json`}>as JSON</a>
      </Text>
      {record && (
        <ImportFile<Schemas["ImportedReadings"]>
          site={site}
          label="Import readings"
          hint="CSV or JSON as it is saved here; a line a reading: read_at, meter or name, register."
          accept=".csv,.json,text/csv,application/json"
          url={`${path}/meter-reading-imports`}
          insists
          done={(a) => `${a.new} written${a.known > 0 ? `, ${a.known} were there already` : ""}.`}
        />
      )}
      {minutes && (
        <Text>
          <a href={`${path}/meters/${meter.id}/minutes.csv`}>Save what {meter.meter.name} counted each minute</a>
          {" · "}
          <a href={`${path}/meters/${meter.id}/minutes.jsonl`}>as JSON</a>
        </Text>
      )}
      {minutes && manage && (
        <ImportFile<Schemas["ImportedMinutes"]>
          site={site}
          label={`Import minutes of ${meter.meter.name}`}
          hint="CSV or JSON as it is saved here, at most 100 MB; a line a minute: minute, pulses. What was told before stands."
          accept=".csv,.jsonl,text/csv"
          url={`${path}/meters/${meter.id}/minute-imports`}
          done={(a) =>
            `${a.new} minutes are new${a.known > 0 ? `, ${a.known} were there already` : ""}${a.other > 0 ? `, ${a.other} were told with another count before, which stands` : ""}.`
          }
        />
      )}
    </Stack>
  );
}
