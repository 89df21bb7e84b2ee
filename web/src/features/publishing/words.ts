// How it stands with what is published, in words.
import type { Schemas } from "../../api";
import { clock, localDate, longDay, minutes, moment } from "../../time";
import type { Units } from "../../units";
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

/** `by Juniper Marsh`. */
export const byWords = (published: NonNullable<Publishing["published"]>) =>
  published.by_rule ? "by the site’s rule" : `by ${published.who ?? "somebody who is gone"}`;

/** Read after "published": `Thu 18 June, 07:30, by Juniper Marsh; it runs up to Wed 24 June`. */
export function publishedWords(published: NonNullable<Publishing["published"]>, timeZone: string): string {
  const day = longDay(localDate(published.published_at, timeZone));
  return `${day}, ${clock(published.published_at, timeZone)}, ${byWords(published)}; it runs up to ${longDay(published.last_day)}`;
}

/** What of a controller wants looking at; nothing: it holds what it should. */
export function controllerTrouble(controller: Schemas["ControllerView"] | null | undefined, published: boolean) {
  if (!controller?.connected) return undefined;
  const { holds_any, holds_published, missed, faults, trouble, left_out, doubtful } = controller;
  if (!holds_published) {
    const why = trouble ? `: ${trouble}` : "";
    if (!published) return `The controller still holds a week that is withdrawn${why}.`;
    return holds_any
      ? `The controller holds another week than the one published${why}.`
      : `The controller does not hold the published week yet${why}.`;
  }
  if (trouble) return `The controller is not heard: ${trouble}. It goes on with what it holds.`;
  if (doubtful.length > 0) return "The controller put a run into the record that cannot be so.";
  if (missed.length > 0) return "The controller did not run all that was published.";
  if (left_out.length > 0) return "The controller tells things that cannot be so; they are left out of the record.";
  return faults.length > 0 ? "The controller reports a flow that is wrong." : undefined;
}

/** Why a line of a controller's log cannot be so. */
export function notSoWords(line: Schemas["LeftOutView"], timeZone: string, units: Pick<Units, "show">): string {
  switch (line.why) {
    case "unreadable":
      return `it cannot be read (${line.what})`;
    case "numbered":
      return `its number, ${line.number}, cannot come next`;
    case "untimely":
      return `it tells of ${plausible(line.at, timeZone)}, before its pass or still to come`;
    case "negative":
      return `it tells of ${line.told_s} s`;
    case "too_long":
      return `it tells of ${longTime(line.told_s)} for a pass of ${minutes(line.sent_s)}`;
    case "too_much":
      return `it tells of ${units.show("volume", line.told_l)} in one pass`;
  }
}

/** Minutes; from two days on, days: what cannot be so is easier to see. */
export const longTime = (seconds: number) =>
  seconds < 172_800 ? minutes(seconds) : `${Math.floor(seconds / 86_400).toLocaleString("en")} days`;

/** An instant that may lie outside all calendars. */
const plausible = (at: string, timeZone: string) =>
  /^(19|20|21)\d\d-/.test(at) ? moment(at, timeZone) : at.slice(0, 11);

/** How it stands with a controller, in a few sentences. */
export function controllerWords(controller: Schemas["ControllerView"], published: boolean, timeZone: string): string {
  if (!controller.connected) {
    return "It is not connected: what is published must be set on a controller by hand, and what runs is assumed until somebody says otherwise.";
  }
  const heard = controller.heard_at
    ? ` Last heard ${moment(controller.heard_at, timeZone)}; what it reports takes the place of what was assumed.`
    : "";
  if (!controller.holds_published) {
    return `${controllerTrouble(controller, published)} It is tried again, and nothing is sent late.${heard}`;
  }
  const holds = controller.holds_any
    ? "It holds the published week and runs it."
    : "It holds nothing: nothing is published.";
  return `${holds}${controller.trouble ? ` It is not heard at the moment: ${controller.trouble}.` : ""}${heard}`;
}
