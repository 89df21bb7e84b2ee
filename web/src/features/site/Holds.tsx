// From when a change of a zone holds: one line for each figure that changed.
import { NativeSelect, TextInput } from "@mantine/core";
import type { ReactNode } from "react";
import type { Zone } from "../../api";
import { addDays } from "../../time";
import classes from "./SitePage.module.css";

/** The keys that hold from a day, as people call them, and whether what they tell was always so unless somebody says otherwise. */
const DATED: { key: keyof Zone; name: string; always: boolean }[] = [
  { key: "grass", name: "Grass", always: false },
  { key: "plants", name: "Watered for", always: false },
  { key: "how_green", name: "How green", always: false },
  { key: "regime", name: "How it is watered", always: false },
  { key: "sown_on", name: "Sown on", always: false },
  { key: "new_grass_as", name: "Made of", always: false },
  { key: "school", name: "School of watering", always: false },
  { key: "late_hours", name: "After noon", always: false },
  { key: "soil", name: "Soil", always: true },
  { key: "slope_pct", name: "Slope", always: true },
  { key: "area_m2", name: "Area", always: true },
  { key: "exposure", name: "Sun and edges", always: true },
  { key: "sprinkler", name: "Sprinklers", always: false },
  { key: "rate_mm_h", name: "Precipitation rate", always: false },
  { key: "evenness_du_lq", name: "Evenness", always: false },
  { key: "setting_m2", name: "Area of one setting", always: false },
  { key: "root_depth_mm", name: "Root depth", always: true },
  { key: "minutes_to_runoff", name: "Minutes to the first runoff", always: true },
  { key: "allowable_depletion", name: "Share that may be used", always: false },
];

type Kind = "always" | "today" | "day";

/** What is chosen first of each kind. */
const FIRST_DAY: Record<Kind, (today: string) => string> = {
  always: () => "always",
  today: (today) => today,
  day: (today) => addDays(today, -1),
};

export type Chosen = Record<string, string>;

/** The dated keys that differ between two states of a zone. */
export const changedKeys = (before: Zone, after: Zone) =>
  DATED.filter(({ key }) => JSON.stringify(before[key] ?? null) !== JSON.stringify(after[key] ?? null));

/** `root_depth_mm:always,rate_mm_h:2026-06-10`, for what changed. */
export const holdsQuery = (before: Zone, after: Zone, chosen: Chosen, today: string) =>
  changedKeys(before, after)
    .map(({ key, always }) => `${key}:${chosen[key] ?? (always ? "always" : today)}`)
    .join(",");

type Props = {
  before: Zone;
  after: Zone;
  today: string;
  chosen: Chosen;
  onChoose: (chosen: Chosen) => void;
  /** What is wrong with a day, by `holds.` and the key. */
  errors: Record<string, ReactNode>;
};

export function Holds({ before, after, today, chosen, onChoose, errors }: Props) {
  const changed = changedKeys(before, after);
  if (changed.length === 0) return null;
  return (
    <fieldset className={classes.group}>
      <legend>From when is it so?</legend>
      <p className={`quiet ${classes.hint}`}>Days before keep the balance that they had.</p>
      <div className={classes.fields}>
        {changed.map(({ key, name, always }) => {
          const said = chosen[key] ?? (always ? "always" : today);
          const kind = said === "always" ? "always" : said === today ? "today" : "day";
          const choose = (value: string) => onChoose({ ...chosen, [key]: value });
          return (
            <div key={key}>
              <NativeSelect
                label={name}
                value={kind}
                data={[
                  { value: "always", label: "Always so" },
                  { value: "today", label: "From now on" },
                  { value: "day", label: "From an earlier day" },
                ]}
                onChange={(e) => choose(FIRST_DAY[e.currentTarget.value as Kind](today))}
              />
              {kind === "day" && (
                <TextInput
                  type="date"
                  label={`${name}, since`}
                  max={today}
                  value={said}
                  error={errors[`holds.${key}`]}
                  onChange={(e) => choose(e.currentTarget.value || addDays(today, -1))}
                />
              )}
            </div>
          );
        })}
      </div>
    </fieldset>
  );
}
