// What may be used of the water, what was used of it, and what the month or year comes to.
import { Progress } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import type { Shown } from "../../quantities";
import { dayMonth } from "../../time";
import { useUnits } from "../../units";
import { Failed } from "../shell/States";
import classes from "./Book.module.css";
import { type CapStanding, capsQuery } from "./queries";

export function Caps({ site }: { site: string }) {
  const units = useUnits();
  const caps = useQuery(capsQuery(site));
  if (caps.error) return <Failed message={caps.error.message} retry={() => caps.refetch()} />;
  if (!caps.data || caps.data.length === 0) return null;
  return (
    <section aria-label="What may be used">
      <h2 className={classes.first}>What may be used</h2>
      {caps.data.map((c) => {
        const share = c.allowed_l ? c.used_l / c.allowed_l : undefined;
        return (
          <div key={`${c.name} ${c.from}`} className={classes.cap}>
            <p>
              <strong>{c.name}</strong>, {dayMonth(c.from)} to {dayMonth(c.to)}: {usedWords(c, units)}
            </p>
            {share !== undefined && (
              <Progress
                value={Math.min(100, 100 * share)}
                color={share > 1 ? "clay" : "turf"}
                aria-label={`${c.name}: ${Math.round(100 * share)} % used`}
              />
            )}
            <p className="quiet">{outlookWords(c, units)}</p>
          </div>
        );
      })}
    </section>
  );
}

function usedWords(c: CapStanding, units: Shown): string {
  const used = units.show("volume", c.used_l);
  if (c.allowed_l == null)
    return `${used} used. The record does not reach back to the base year: what is allowed is not known.`;
  return `${used} of ${units.show("volume", c.allowed_l)} used.`;
}

/** What it comes to, and whether that is more than is allowed. */
function outlookWords(c: CapStanding, units: Shown): string {
  if (!c.outlook) return "The record has no past year of these days: what they come to is not told.";
  const { low_l, middle_l, high_l, years } = c.outlook;
  const volume = (litres: number) => units.show("volume", litres);
  const comes =
    years === 1
      ? `With the weather of the one past year that is known it comes to ${volume(middle_l)}`
      : `With the weather of ${years} past years it comes to ${volume(low_l)} to ${volume(high_l)}, in the middle ${volume(middle_l)}`;
  if (c.allowed_l == null) return `${comes}.`;
  if (middle_l > c.allowed_l) return `${comes}: ${volume(middle_l - c.allowed_l)} more than is allowed.`;
  if (high_l > c.allowed_l) return `${comes}: in the driest year more than is allowed.`;
  return `${comes}: within what is allowed.`;
}
