// How it stands with what is published, in words.
import { clock, localDate, longDay } from "../../time";
import type { Publishing } from "./queries";

export type Standing = "none" | "over" | "same" | "changed";

/** Waterings of the published week that the newest plan changes. */
export const changesOf = (publishing: Publishing) =>
  (publishing.since?.changes ?? []).reduce((sum, zone) => sum + zone.changes.length, 0);

export function standing(publishing: Publishing, today: string): Standing {
  if (!publishing.published) return "none";
  if (publishing.published.last_day < today) return "over";
  return changesOf(publishing) > 0 ? "changed" : "same";
}

/** `published Thu 18 June at 07:30 by Juniper Sorrel, up to Wed 24 June`. */
export function publishedWords(published: NonNullable<Publishing["published"]>, timeZone: string): string {
  const by = published.by_rule ? "by the site’s rule" : `by ${published.who ?? "somebody who is gone"}`;
  const day = longDay(localDate(published.published_at, timeZone));
  return `published ${day} at ${clock(published.published_at, timeZone)} ${by}, up to ${longDay(published.last_day)}`;
}
