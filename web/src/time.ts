// Dates and times for people, in the site's time zone.

/** `04:10` in the site's time zone. */
export function clock(instant: string, timeZone: string): string {
  return new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone }).format(new Date(instant));
}

/** A civil date as noon UTC, so that no zone moves it. */
const civil = (date: string) => new Date(`${date}T12:00:00Z`);

const format = (date: string, options: Intl.DateTimeFormatOptions) =>
  new Intl.DateTimeFormat("en-GB", { ...options, timeZone: "UTC" }).format(civil(date));

/** `Thu 18`. */
export const shortDay = (date: string) => `${format(date, { weekday: "short" })} ${format(date, { day: "numeric" })}`;
/** `Thursday`. */
export const weekday = (date: string) => format(date, { weekday: "long" });
/** `18 June`. */
export const dayMonth = (date: string) => format(date, { day: "numeric", month: "long" });
/** `June`. */
export const monthName = (date: string) => format(date, { month: "long" });
/** `18 June 2025`: of a day that may be years ago. */
export const dated = (date: string) => `${dayMonth(date)} ${date.slice(0, 4)}`;
/** `Thu 18 June`. */
export const longDay = (date: string) => `${format(date, { weekday: "short" })} ${dayMonth(date)}`;

/** Days from one civil date to another. */
export const daysBetween = (from: string, to: string) =>
  Math.round((civil(to).getTime() - civil(from).getTime()) / 86_400_000);

/** A civil date some days later. */
export function addDays(date: string, days: number): string {
  const d = civil(date);
  d.setUTCDate(d.getUTCDate() + days);
  return d.toISOString().slice(0, 10);
}

/** `today`, `tomorrow`, or the weekday; further away with the date. */
export function whenDay(date: string, today: string): string {
  const days = daysBetween(today, date);
  if (days === -1) return "yesterday";
  if (days === 0) return "today";
  if (days === 1) return "tomorrow";
  if (days > 1 && days < 7) return weekday(date);
  return longDay(date);
}

/** `12:05`, minutes and seconds; longer than two hours as `2 h 05:00` would be worse to add up, so minutes go on counting. */
export function minutesSeconds(seconds: number): string {
  const all = Math.abs(seconds);
  return `${seconds < 0 ? "−" : ""}${Math.floor(all / 60)}:${String(all % 60).padStart(2, "0")}`;
}

/** `38 min`, with seconds only where there are some. */
export function minutes(seconds: number): string {
  return seconds % 60 === 0 ? `${seconds / 60} min` : `${minutesSeconds(seconds)} min`;
}

/** `2 h ago`, `3 days ago`: how old an instant is at another. */
export function ago(instant: string, now: string): string {
  const hours = Math.floor((new Date(now).getTime() - new Date(instant).getTime()) / 3_600_000);
  if (hours < 1) return "within the hour";
  if (hours < 48) return `${hours} h ago`;
  return `${Math.floor(hours / 24)} days ago`;
}

export const sentenceCase = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** `Thu 18 June, 04:10`. */
export const moment = (instant: string, timeZone: string) =>
  `${longDay(localDate(instant, timeZone))}, ${clock(instant, timeZone)}`;

/** `today 04:10`, `yesterday 19:00`, `Thu 18 June, 04:10`: an instant beside a day. */
export const whenAt = (instant: string, today: string, timeZone: string) =>
  `${whenDay(localDate(instant, timeZone), today)} ${clock(instant, timeZone)}`;

/** The instant of a civil date and clock time, `2026-06-18` and `04:10`, in a time zone; undefined for what is no time. */
export function instantOf(date: string, time: string, timeZone: string): string | undefined {
  const wanted = Date.parse(`${date}T${time}:00Z`);
  if (Number.isNaN(wanted)) return undefined;
  const shown = (at: number) => {
    const iso = new Date(at).toISOString();
    return Date.parse(`${localDate(iso, timeZone)}T${clock(iso, timeZone)}:00Z`);
  };
  // Off by the zone's distance at first, then by what the clocks change between.
  let at = wanted;
  for (let round = 0; round < 2; round++) at += wanted - shown(at);
  return new Date(at).toISOString();
}

/** The civil date of an instant in a time zone, `2026-06-18`. */
export const localDate = (instant: string, timeZone: string) =>
  new Intl.DateTimeFormat("en-CA", { timeZone }).format(new Date(instant));
