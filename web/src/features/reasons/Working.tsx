// The working of a cell: built from its ledger alone. Its times add up to the run, to the second.
import { Modal } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { Fragment, type ReactNode } from "react";
import type { Cell, LedgerLine, SiteView, ZonePlan } from "../../api";
import { amount } from "../../money";
import { clock, dayMonth, longDay, minutes, minutesSeconds, sentenceCase, whenDay } from "../../time";
import { useUnits } from "../../units";
import { seenWords } from "../soil/words";
import { ChangeDay } from "../week/ChangeDay";
import { AskedHours } from "./AskedHours";
import { DryDays } from "./DryDays";
import { runWords } from "./run";
import { Term } from "./Term";
import classes from "./Working.module.css";
import { bearings, find, goesTooDry, type LineOf, sentence, sourceWords, tooDryWords, warnings } from "./words";

type Props = {
  site: string;
  view: SiteView;
  zone: ZonePlan;
  cell: Cell;
  today: string;
  opened: boolean;
  onClose: () => void;
};

export function Working({ opened, onClose, ...shown }: Props) {
  const { zone, cell } = shown;
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      size="lg"
      title={<span className={classes.title}>{`${zone.name}, ${longDay(cell.date)}`}</span>}
      closeButtonProps={{ "aria-label": "Close the working" }}
    >
      <Ledger {...shown} />
      <ChangeDay key={cell.date} site={shown.site} zone={zone} cell={cell} today={shown.today} />
      <DryDays {...shown} />
      <AskedHours site={shown.site} view={shown.view} zone={zone} />
    </Modal>
  );
}

function Ledger({ view, zone, cell, today }: Omit<Props, "opened" | "onClose">) {
  const units = useUnits();
  const dry = goesTooDry({ ...zone, cells: [cell] });
  const said = [...warnings({ ...zone, cells: [cell] }, today, units), ...(dry ? [tooDryWords(dry, today)] : [])];
  return (
    <div className={classes.ledger}>
      <p className={classes.verdict}>
        <strong>{verdict(cell)}</strong> {sentence(cell, cell.verdict, today, units)}
      </p>
      {said.map((text) => (
        <p key={text} className={classes.warning}>
          {text}
        </p>
      ))}
      <Runs ledger={cell.ledger} />
      <Decision cell={cell} ledger={cell.ledger} run={cell.run} today={today} view={view} />
      {cell.later.map((later) => (
        <Fragment key={later.run.window.opens}>
          <h3 className={classes.heading}>
            Again from {clock(later.run.window.opens, view.site.time_zone)}: {runWords(later.run)}
          </h3>
          <p className={classes.plain}>
            {sentenceCase(sentence({ ...cell, ledger: later.ledger }, later.verdict, today, units))}
          </p>
          <Decision cell={cell} ledger={later.ledger} run={later.run} today={today} view={view} />
        </Fragment>
      ))}
      {zone.beside && <Beside site={view.id} beside={zone.beside} />}
      <Figures ledger={cell.ledger} />
    </div>
  );
}

/** What a school that goes by the calendar comes to this week, beside the water balance. */
function Beside({ site, beside }: { site: number; beside: NonNullable<ZonePlan["beside"]> }) {
  const units = useUnits();
  const rows = [
    { name: "By the calendar, as it is set", week: beside.own },
    { name: "By the water balance", week: beside.balance },
  ];
  return (
    <Section title="This week, to be expected with the rain that may come">
      <table className={classes.lines} data-wide>
        <caption className="hidden">The zone’s school beside the water balance</caption>
        <thead>
          <tr>
            <th scope="col">School</th>
            <th scope="col">Water, {units.label("volume")}</th>
            <th scope="col">Into the soil, {units.label("depth")}</th>
            <th scope="col">Days too dry</th>
            <th scope="col">Drains, {units.label("depth")}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ name, week }) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td className="number">{units.figure("volume", week.volume_l)}</td>
              <td className="number">{units.figure("depth", week.net_mm)}</td>
              <td className="number">{week.stress_days.toFixed(1)}</td>
              <td className="number">{units.figure("depth", week.drained_mm)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={classes.plain}>
        <Link to="/site/$site/schools" params={{ site: String(site) }}>
          Compare the schools on the last year’s weather
        </Link>
      </p>
    </Section>
  );
}

/** What decided a slot, line by line. */
function Decision(props: { cell: Cell; ledger: LedgerLine[]; run: Cell["run"]; today: string; view: SiteView }) {
  const { ledger, run, today, view } = props;
  return (
    <>
      <Bearings ledger={ledger} today={today} />
      <Depletion ledger={ledger} />
      {run && <Minutes ledger={ledger} run={run} />}
      <Rain ledger={ledger} today={today} site={view.site} />
    </>
  );
}

function verdict(cell: Cell): string {
  switch (cell.state) {
    case "water":
      return `Water ${minutes(cell.run?.run_s ?? 0)}.`;
    case "hold":
      return "Hold.";
    case "skip":
      return "Skip.";
    case "no_window":
      return "No watering on this day.";
    case "ran":
      return "It ran.";
    default:
      return "";
  }
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3 className={classes.heading}>{title}</h3>
      {children}
    </section>
  );
}

function Line(props: { name: string; note?: string; value: string; sum?: boolean }) {
  return (
    <tr className={props.sum ? classes.sum : undefined}>
      <th scope="row">
        {props.name}
        {props.note && <span className={classes.note}>{props.note}</span>}
      </th>
      <td className="number">{props.value}</td>
    </tr>
  );
}

/** A signed figure: `+ 4.2`, `− 3.1`. */
const signed = (text: string) => (text.startsWith("−") ? `− ${text.slice(1)}` : `+ ${text}`);

function Runs({ ledger }: { ledger: LedgerLine[] }) {
  const units = useUnits();
  const ran = ledger.filter((l) => l.line === "ran");
  if (ran.length === 0) return null;
  return (
    <Section title="In the record">
      {ran.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the record of a past day does not reorder
        <p key={i} className={classes.plain}>
          Ran {minutes(r.seconds)},{" "}
          {r.watered?.by === "unmeasured"
            ? "not counted: nobody says how much fell where"
            : `${units.show("depth", r.net_mm)} into the soil over the zone`}
          {r.assumed ? "; assumed from the plan in force" : ""}.
        </p>
      ))}
    </Section>
  );
}

/** What bore on the decision: the sentence above says only what decided. */
function Bearings({ ledger, today }: { ledger: LedgerLine[]; today: string }) {
  const units = useUnits();
  const lines = bearings(ledger, today, units);
  if (lines.length === 0) return null;
  return (
    <Section title="What bears on it">
      <ul className={classes.list}>
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </Section>
  );
}

function Depletion({ ledger }: { ledger: LedgerLine[] }) {
  const units = useUnits();
  const account = find(ledger, "account");
  const dry = find(ledger, "depletion");
  if (!account || !dry) return null;
  // Rounded so that the lines add up to what is shown.
  const lines: { name: string; mm: number; first?: boolean }[] = [
    { name: `Used at dawn of ${dayMonth(account.from)}`, mm: account.start_mm, first: true },
    { name: "Grass used since", mm: account.eta_mm },
    { name: "Rain taken in", mm: -account.effective_rain_mm },
    { name: "Watering taken in", mm: -account.irrigation_mm },
  ];
  if (account.drainage_mm > 0.005) lines.push({ name: "Drained below the roots", mm: account.drainage_mm });
  if (Math.abs(account.adjustment_mm) > 0.005) lines.push({ name: "Corrections", mm: account.adjustment_mm });
  const figures = units.account(
    "depth",
    lines.map((l) => l.mm),
    account.depletion_mm,
  );
  return (
    <Section title="How dry the root zone is">
      <table className={classes.lines}>
        <caption className="hidden">Depletion, line by line</caption>
        <thead>
          <tr>
            <th scope="col">Line</th>
            <th scope="col">{units.label("depth")}</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((l, i) => (
            <Line key={l.name} name={l.name} value={l.first ? (figures[i] ?? "") : signed(figures[i] ?? "")} />
          ))}
          <Line
            name="Used at this dawn"
            note={`of ${units.show("depth", dry.raw_mm)} that may be used, ${units.show("depth", dry.taw_mm)} that the roots hold`}
            value={figures[lines.length] ?? ""}
            sum
          />
        </tbody>
      </table>
      <Corrected ledger={ledger} />
    </Section>
  );
}

/** What was seen that moved the balance, and what readings have taught. */
function Corrected({ ledger }: { ledger: LedgerLine[] }) {
  const units = useUnits();
  const corrected = ledger.filter((l) => l.line === "corrected");
  const drift = find(ledger, "drift");
  if (corrected.length === 0 && !drift) return null;
  return (
    <ul className={classes.list}>
      {corrected.map((c) => (
        <li key={`${c.date}-${JSON.stringify(c.seen)}`}>
          {dayMonth(c.date)}, {seenWords(c.seen, units)}: it says {units.show("depth", c.told_mm)} used, the book said{" "}
          {units.show("depth", c.book_mm)}. It counts for {Math.round(c.gain * 100)} %:{" "}
          {signed(units.show("depth", c.adjustment_mm))}.
        </li>
      ))}
      {drift && (
        <li>
          {drift.readings === 1
            ? "One reading alone suggests that the grass uses about "
            : "Readings have taught that the grass uses "}
          {Math.abs(drift.share * 100).toFixed(0)} % {drift.share > 0 ? "more" : "less"} than the book says;{" "}
          {drift.readings === 1
            ? "each day is corrected by it until the next reading tells more."
            : "each day is corrected by it."}
        </li>
      )}
    </ul>
  );
}

function Minutes({ ledger, run }: { ledger: LedgerLine[]; run: NonNullable<Cell["run"]> }) {
  const units = useUnits();
  const asked = find(ledger, "asked");
  const refill = asked ?? find(ledger, "refill");
  const uneven = find(ledger, "unevenness");
  const loss = find(ledger, "spray_loss");
  const rounding = find(ledger, "rounding");
  const rate = find(ledger, "at_rate");
  const carries = find(ledger, "window_carries");
  const room = find(ledger, "room_for_rain");
  const passes = find(ledger, "passes");
  const set = find(ledger, "set_on_controller");
  if (!refill || !uneven || !loss || !rounding || !rate) return null;
  const depth = (mm: number) => units.show("depth", mm);
  return (
    <>
      <Section title="From depth to minutes">
        <table className={classes.lines}>
          <caption className="hidden">Run time, line by line</caption>
          <thead>
            <tr>
              <th scope="col">Line</th>
              <th scope="col">min:s</th>
            </tr>
          </thead>
          <tbody>
            <Line
              name={
                room
                  ? `Part of the refill of ${depth(room.refill_mm)}: ${depth(refill.net_mm)}`
                  : carries
                    ? `As much as the window carries, ${depth(refill.net_mm)}`
                    : `${asked ? "Asked by the calendar," : "Refill"} ${depth(refill.net_mm)}`
              }
              note={`at ${units.show("rate", rate.rate_mm_h.value)} (${sourceWords(rate.rate_mm_h.source, rate.since)})`}
              value={minutesSeconds(refill.seconds)}
            />
            <Line
              name={`Unevenness, ${depth(uneven.added_mm)} more`}
              note={`evenness ${uneven.evenness.value.toFixed(2)} (${sourceWords(uneven.evenness.source, uneven.since)}): × ${uneven.multiplier.toFixed(3)}`}
              value={signed(minutesSeconds(uneven.seconds))}
            />
            <Line
              name={`Spray and drift, ${depth(loss.added_mm)} more`}
              note={`${Math.round(loss.share.value * 100)} % lost (${sourceWords(loss.share.source)})`}
              value={signed(minutesSeconds(loss.seconds))}
            />
            <Line
              name="Rounding to equal passes"
              note={`whole steps of ${rounding.step_s} s; the balance keeps what is left`}
              value={signed(minutesSeconds(rounding.seconds))}
            />
            <Line name="Run time" value={minutesSeconds(run.run_s)} sum />
          </tbody>
        </table>
      </Section>
      {passes && (
        <Section title={run.settings > 1 ? `In each of ${run.settings} places` : "Passes"}>
          <p className={classes.plain}>
            {run.settings > 1 &&
              `The sprinkler is moved ${run.settings - 1} times: ${minutes(run.run_s * run.settings)} in all. `}
            {passes.passes} × {minutesSeconds(passes.pass_s)}
            {passes.passes > 1 ? `, at least ${minutes(Math.ceil(passes.soak_s / 60) * 60)} of soak between. ` : ". "}
            {limitWords(passes, units.show("rate", passes.intake_mm_h.value), depth(passes.accumulation_mm))}
            {passes.most_passes != null && passes.passes >= passes.most_passes
              ? ` No more than ${passes.most_passes} at a time: ${settingsOrStarts(run)}.`
              : ""}
            {set
              ? ` Set ${minutesSeconds(set.set_s)} on the controller: its seasonal adjust of ${set.adjust_pct} % makes that ${minutesSeconds(passes.pass_s)}.`
              : ""}
          </p>
        </Section>
      )}
    </>
  );
}

/** Hold or dose: the candidates with what each is expected to cost. */
function Rain({ ledger, today, site }: { ledger: LedgerLine[]; today: string; site: SiteView["site"] }) {
  const units = useUnits();
  const compared = find(ledger, "rain_compared");
  if (!compared) return null;
  const held = find(ledger, "held_for_rain");
  const saved = held?.saves_cost == null ? undefined : amount(held.saves_cost, site.currency);
  return (
    <Section title="Rain in sight: hold, or how much">
      {held && (
        <p className={classes.plain}>
          Rain is {Math.round(held.probability_pct)} % likely to bring it back within its limit before{" "}
          {whenDay(held.before, today)}; {units.show("depth", held.expected_mm)} of it are to be expected by then.
          {held.saves_mm >= 0.5 &&
            ` Against refilling now, holding keeps ${units.show("depth", held.saves_mm)} from draining below the roots over the days compared: ${units.show("volume", held.saves_l)}${saved ? `, ${saved}` : ""}.`}
        </p>
      )}
      <p className={classes.plain}>
        Each choice is run through the same {compared.scenarios} possible courses of the next {compared.days} days (
        {units.show("depth", compared.expected_mm)} of rain on average). The least cost is taken:{" "}
        {compared.stress_weight} × what lies beyond the limit, summed over the days, what drains, and{" "}
        {units.show("depth", compared.watering_mm)} for each watering. It waits only where rain is likelier than not to
        bring it back within its limit in time.
      </p>
      <table className={classes.lines} data-wide>
        <caption className="hidden">Choices and their costs</caption>
        <thead>
          <tr>
            <th scope="col">Choice</th>
            <th scope="col">Too dry</th>
            <th scope="col">Drains</th>
            <th scope="col">Waterings</th>
            <th scope="col">Cost, {units.label("depth")}</th>
          </tr>
        </thead>
        <tbody>
          {compared.candidates.map((c, i) => {
            const [stress, drains, waterings, cost] = units.account(
              "depth",
              [c.stress_mm * compared.stress_weight, c.drained_mm, c.waterings * compared.watering_mm],
              c.cost_mm,
            );
            return (
              <tr key={c.net_mm} className={i === compared.best ? classes.sum : undefined}>
                <th scope="row">
                  {c.net_mm > 0 ? units.show("depth", c.net_mm) : "Hold"}
                  {i === compared.best ? ", taken" : ""}
                </th>
                <td className="number">{stress}</td>
                <td className="number">{drains}</td>
                <td className="number">{waterings}</td>
                <td className="number">{cost}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Section>
  );
}

/** What keeps passes few: a person who carries the sprinkler, or the starts of the controller. */
const settingsOrStarts = (run: NonNullable<Cell["run"]>) =>
  run.starts.length > 0 ? "the controller has so many starts" : "who waters by hand goes no oftener";

function limitWords(passes: LineOf<"passes">, intake: string, stands: string): string {
  const longest = passes.longest_pass_s ? minutesSeconds(passes.longest_pass_s) : "";
  switch (passes.limit) {
    case "none":
      return `The soil drinks ${intake}, as fast as the sprinklers rain (${sourceWords(passes.intake_mm_h.source)}): one pass.`;
    case "intake":
      return `Longest pass ${longest}: the soil drinks ${intake} and ${stands} may stand on it (${sourceWords(passes.intake_mm_h.source)}).`;
    case "measured_runoff":
      return `Longest pass ${longest}: measured here, until water ran.`;
    case "ponding":
      return `Longest pass ${longest}: after it water stands, by Green and Ampt; in the end the soil takes ${intake} (${sourceWords(passes.intake_mm_h.source)}).`;
    case "repellent":
      return `Longest pass ${longest}: the ground repels water; light passes with soaks until drops go in.`;
    case "controller":
      return `Longest pass ${longest}: the controller's longest run.`;
  }
}

function Figures({ ledger }: { ledger: LedgerLine[] }) {
  const units = useUnits();
  const storage = find(ledger, "storage");
  const et = find(ledger, "crop_et");
  if (!storage || !et) return null;
  return (
    <Section title="Figures behind it">
      <ul className={classes.list}>
        <li>
          The grass uses {units.show("depth", et.etc_mm)} this day: <Term name="reference ET" />{" "}
          {units.show("depth", et.et0_mm)} × <Term name="Kc" /> {et.kc.toFixed(2)} × how green {et.how_green.toFixed(2)}{" "}
          × growth {et.growth.toFixed(2)} × site {et.site_factor.toFixed(2)}.
        </li>
        <li>
          Roots {units.show("root_depth", storage.root_depth_mm.value)} deep (
          {sourceWords(storage.root_depth_mm.source, storage.root_depth_since)}
          ), soil holds {(storage.available_mm_per_mm.value * 100).toFixed(1)} % of its depth (
          {sourceWords(storage.available_mm_per_mm.source, storage.available_since)}).
        </li>
      </ul>
    </Section>
  );
}
