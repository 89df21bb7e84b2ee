// Local rules in plain language.
import type { Schemas } from "../../api";
import type { Shown } from "../../quantities";
import { dayMonth, sentenceCase } from "../../time";
import type { Rule } from "./queries";

export const DAYS = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"] as const;

/** A rule that closes days or hours. */
export type Closing = Exclude<Rule["says"], { kind: "at_most" }>;

/** What a rule begins as, by what people look for. */
export const STARTS: { label: string; rule: (today: string) => Rule }[] = [
  {
    label: "Odd or even dates",
    rule: () => ({ name: "Even dates", says: { kind: "only_on", dates: "even" } as Rule["says"] }),
  },
  {
    label: "Fixed days",
    rule: () => ({
      name: "Two days a week",
      says: { kind: "only_on", weekdays: ["tuesday", "saturday"], dates: "any" } as Rule["says"],
    }),
  },
  {
    label: "Every so many days",
    rule: (today) => ({
      name: "Every third day",
      says: { kind: "only_on", dates: "any", every: { days: 3, counted_from: today } } as Rule["says"],
    }),
  },
  {
    label: "At most so much water",
    rule: () => ({ name: "Volume", says: { kind: "at_most", volume_l: 100_000, per: "week" } as Rule["says"] }),
  },
  {
    label: "No watering: a match, an event, a ban",
    rule: (today) => ({ name: "Match", from: today, to: today, says: { kind: "never" } as Rule["says"] }),
  },
];

export const WHO: Record<Schemas["ExemptWho"], string> = {
  new_seed: "New seed",
  by_hand: "By hand or hose",
  drip: "Drip lines",
  zone: "One zone",
};

const list = (words: string[]) =>
  words.length < 2 ? (words[0] ?? "") : `${words.slice(0, -1).join(", ")} and ${words[words.length - 1]}`;

/** A rule as a sentence. */
export function ruleSentence(rule: Rule, zoneName: (id: string) => string, units: Shown): string {
  const { says } = rule;
  const what =
    says.kind === "at_most"
      ? `at most ${units.show("volume", says.volume_l)} a ${says.per}${rule.zones?.length === 1 ? "" : " together"}`
      : closing(says);
  const whom = rule.zones?.length ? list(rule.zones.map(zoneName)) : "all zones";
  const when = [
    rule.stage ? `during ${rule.stage}` : "",
    rule.from && rule.from === rule.to ? `on ${dayMonth(rule.from)}` : rule.from ? `from ${dayMonth(rule.from)}` : "",
    rule.to && rule.from !== rule.to ? `until ${dayMonth(rule.to)}` : "",
  ].filter(Boolean);
  const exempt = rule.exempt?.length
    ? `; not for ${list(rule.exempt.map((e) => (e.who === "zone" ? zoneName(e.zone ?? "") : WHO[e.who].toLowerCase())))}`
    : "";
  return `${sentenceCase(whom)}: ${what}${when.length > 0 ? `, ${when.join(" ")}` : ""}${exempt}.`;
}

function closing(says: Closing): string {
  const hours = says.hours
    ? ` ${says.kind === "never" ? "from" : "between"} ${says.hours.from} ${says.kind === "never" ? "to" : "and"} ${says.hours.to}`
    : "";
  const parts: string[] = [];
  if (says.kind === "only_on") {
    if (says.weekdays?.length) parts.push(list(says.weekdays.map(sentenceCase)));
    if (says.dates && says.dates !== "any") parts.push(`${says.dates} dates`);
    if (says.every) parts.push(`every ${ordinal(says.every.days)} day`);
  }
  return says.kind === "never"
    ? `no watering${hours}`
    : `only on ${parts.length > 0 ? parts.join(", ") : "any day"}${hours}`;
}

const ordinal = (n: number) => (n === 2 ? "second" : n === 3 ? "third" : `${n}th`);
