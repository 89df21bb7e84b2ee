// What follows from a change of a day or a school: the zone's week before and after, and what it changes for others.
import type { Schemas } from "../../api";
import { minutes, sentenceCase } from "../../time";
import { useUnits } from "../../units";
import { changeWords } from "../morning/Changes";
import classes from "../reasons/Working.module.css";

type Props = {
  follows: Schemas["Follows"];
  today: string;
  zone: string;
  /** Minutes that were asked for on a day, and those that are planned there now. */
  asked?: { date: string; minutes: number; planned: number } | undefined;
};

/** The day that a change is about. */
const dayOf = (change: Schemas["Change"]) => (change.change === "moved" ? change.to : change.date);

/** Minutes come in equal passes of whole steps: others than were asked for are said. */
function givenWords({ follows, zone, asked }: Props): string {
  if (!asked) return "";
  const own = follows.changes.find((c) => c.zone === zone && dayOf(c) === asked.date);
  const given = own?.change === "minutes" ? own.to_s / 60 : own?.change === "added" ? own.run_s / 60 : asked.planned;
  if (Math.abs(given - asked.minutes) < 0.5) return "";
  return `${minutes(asked.minutes * 60)} become ${minutes(given * 60)}: it waters in equal passes that the ground takes and the controller can be set to. `;
}

export function Follows(props: Props) {
  const { follows, today, zone, asked } = props;
  const units = useUnits();
  const { before, after } = follows;
  const rows: [string, string, string][] = [
    ["Water this week", units.show("volume", before.volume_l), units.show("volume", after.volume_l)],
    ["Minutes", minutes(before.run_s), minutes(after.run_s)],
    ["Days too dry, if no rain comes", String(before.days_too_dry), String(after.days_too_dry)],
    [
      "At most beyond the limit",
      units.show("depth", before.most_too_dry_mm),
      units.show("depth", after.most_too_dry_mm),
    ],
    ["Used at the end of the week", units.show("depth", before.depletion_mm), units.show("depth", after.depletion_mm)],
  ];
  const drains = follows.warnings.find((w) => w.warning === "edit_drains");
  const freezes = follows.warnings.find((w) => w.warning === "edit_freezes");
  const others = follows.changes.filter((c) => c.zone !== zone).length;
  const ownChanges = follows.changes.filter((c) => c.zone === zone);
  return (
    <>
      <table className={classes.lines} data-wide>
        <caption className="hidden">What follows</caption>
        <thead>
          <tr>
            <th scope="col">This week</th>
            <th scope="col">Now</th>
            <th scope="col">Then</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, now, then]) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td className="number">{now}</td>
              <td className="number">{then}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={classes.plain} role="status">
        {givenWords(props)}
        {ownChanges.map((c) => sentenceCase(changeWords(c, today))).join(" ")}
        {asked && ownChanges.some((c) => dayOf(c) > asked.date)
          ? " Later days are planned anew with what this one gives."
          : ""}
        {others > 0 ? ` ${others === 1 ? "One watering" : `${others} waterings`} of other zones change too.` : ""}
        {drains ? ` ${units.show("depth", drains.drains_mm)} of it would drain below the roots.` : ""}
        {freezes ? ` It may freeze that night: ${units.show("temperature", freezes.tmin_c)} expected.` : ""}
        {ownChanges.length + others === 0 && !drains ? "No watering changes." : ""}
      </p>
    </>
  );
}
