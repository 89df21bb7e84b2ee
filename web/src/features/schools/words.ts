// What each school of watering argues, and where it goes wrong.
import type { Schemas } from "../../api";

export type School = Schemas["School"];
export type Kind = School["kind"];

export const SCHOOLS: Record<Kind, { name: string; argues: string; wrong: string }> = {
  water_balance: {
    name: "Water balance",
    argues:
      "Water when the share of the soil’s store that may be used is used up, and refill it: it reads soil, rain and heat together.",
    wrong: "It is as good as what is known of roots, soil and sprinklers: a core and a can test first.",
  },
  weekly_target: {
    name: "Weekly target",
    argues:
      "So much a week in the growing season, rain counted, in one to three soaks: easy to remember, easy to check with a can.",
    wrong:
      "The week does not know the heat: too little in a hot one, too much in a cool one; shallow or sandy ground lets half of a deep soak through.",
  },
  fixed_interval: {
    name: "Fixed interval",
    argues: "Half an inch every third day, adjusted by eye: no arithmetic, and roots are wetted through.",
    wrong:
      "Rain changes it only where a day is skipped, and it goes on the year round: in spring and autumn most of it drains.",
  },
  every_other_day: {
    name: "Every other day",
    argues: "The same minutes every other day: what a plain dial can do.",
    wrong:
      "Minutes are not depth: on slow sprinklers a sprinkle that keeps roots shallow, on fast ones a flood. Rain hardly changes it.",
  },
};

/** What a school is set to when it is first chosen; the server has the same. */
export const USUAL: Record<Kind, School> = {
  water_balance: { kind: "water_balance" },
  weekly_target: { kind: "weekly_target", target_mm: 25, hot_target_mm: null, dormant_target_mm: 0, soaks: 2 },
  fixed_interval: { kind: "fixed_interval", depth_mm: 12.7, every_days: 3 },
  every_other_day: { kind: "every_other_day", run_minutes: 25, every_days: 2 },
};
