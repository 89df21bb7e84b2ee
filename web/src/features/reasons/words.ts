// Reasons in words, in the reader's units. The only place where reasons become prose.
import type { Cell, Reason, ZonePlan } from "../../api";
import type { Shown } from "../../quantities";
import { minutes, sentenceCase, whenDay } from "../../time";

export type ReasonOf<K extends Reason["reason"]> = Extract<Reason, { reason: K }>;

/** Rain forecast below this probability is shown as dry, %. */
export const LEAST_SHOWN_PCT = 5;

/** The first reason of a kind. */
export function find<K extends Reason["reason"]>(reasons: Reason[], kind: K): ReasonOf<K> | undefined {
  return reasons.find((r): r is ReasonOf<K> => r.reason === kind);
}

export function skipWords(skip: ReasonOf<"skipped">["skip"], units: Shown): string {
  switch (skip.because) {
    case "frost":
      return `it may freeze: ${units.show("temperature", skip.tmin_c)} expected`;
    case "wind":
      return `too windy at dawn: ${units.show("wind", skip.dawn_m_s)}, the limit is ${units.show("wind", skip.limit_m_s)}`;
    case "rained":
      return `${units.show("depth", skip.rain_mm)} of rain in the last 24 hours`;
    case "kept_dry":
      return "somebody wants it dry on this day";
  }
}

/** `12.3 of 20.8 mm used`: at that day's dawn. */
function usedWords(cell: Cell, units: Shown): string {
  const dry = find(cell.reasons, "depletion");
  const [used, allowed] = dry ? [dry.depletion_mm, dry.raw_mm] : [cell.depletion_start_mm, cell.raw_mm];
  return `${units.figure("depth", used)} of ${units.show("depth", allowed)} used`;
}

/** A chance that is worth saying beside "if it stays dry", in percent; undefined where it is as good as certain. */
export const staysDry = (chancePct: number): number | undefined =>
  chancePct >= 95 ? undefined : Math.max(1, Math.round(chancePct));

/** The one thing that decided a zone's day. Everything else is in the working. */
function deciding(cell: Cell, today: string, units: Shown): string | undefined {
  const r = cell.reasons;
  const depth = (mm: number) => units.show("depth", mm);
  const when = (date: string) => whenDay(date, today);
  const skipped = find(r, "skipped");
  if (skipped) return `but ${skipWords(skipped.skip, units)}`;
  const crowded = find(r, "no_room");
  if (crowded)
    return `other zones fill the window; ${minutes(Math.ceil(crowded.more_s / 60) * 60)} more would make it fit`;
  const none = find(r, "no_window");
  if (none)
    return none.passes_on
      ? `no allowed day in the plan; too dry ${when(none.passes_on)}`
      : "no allowed day in the plan, and none is needed";
  const held = find(r, "held_for_rain");
  if (held)
    return `${Math.round(held.probability_pct)} % chance of ${depth(1)} of rain or more before ${when(held.next)}: it waits`;
  const due = find(r, "due");
  if (cell.run) {
    const pulled = find(r, "pulled_earlier");
    if (pulled) return `watered early: ${when(pulled.from)} has no room for it`;
    const early = find(r, "starts_early");
    if (early) return `later windows carry ${depth(early.window_carries_mm)} each, less than it needs: it starts early`;
    const without = due?.passes_on ? `without water too dry ${when(due.passes_on)}` : "water is due";
    const next = due?.next ? `, and the next watering day is ${when(due.next)}` : "";
    const room = find(r, "room_for_rain");
    return room ? `${without}${next}; room is left for rain` : `${without}${next}`;
  }
  const soak = find(r, "not_worthwhile");
  if (soak) return `a soak under ${depth(soak.soak_mm)} is not worth it yet`;
  const little = find(r, "too_little");
  if (little) return `less than the least pass of ${minutes(little.least_pass_s)} is needed`;
  const notDue = find(r, "not_due");
  if (notDue)
    return notDue.next
      ? `${depth(notDue.room_mm)} left by the next watering day, ${when(notDue.next)}`
      : `${depth(notDue.room_mm)} left at the end of the plan`;
  if (cell.state === "no_window") return `no allowed hours ${cell.date === today ? "left today" : "that day"}`;
  return undefined;
}

/** Why a zone does what it does on a day, in one sentence. */
export function sentence(cell: Cell, today: string, units: Shown): string {
  const r = cell.reasons;
  if (find(r, "new_seed")) return "Not planned here yet; keep the top moist, never soaked.";
  if (find(r, "switched_off")) return "Switched off.";
  const flow = find(r, "flow_above_supply");
  if (flow)
    return `It takes ${units.show("flow", flow.flow_l_min)}; the supply gives ${units.show("flow", flow.supply_l_min)}.`;
  const why = deciding(cell, today, units);
  return `${usedWords(cell, units)}${why ? `${why.startsWith("but ") ? ", " : "; "}${why}` : ""}.`;
}

/** Everything that bore on the decision, one line each: the row says only what decided. */
export function bearings(cell: Cell, today: string, units: Shown): string[] {
  const depth = (mm: number) => units.show("depth", mm);
  const when = (date: string) => whenDay(date, today);
  const next = (date: string | null | undefined) =>
    date ? `before the next watering day, ${when(date)}` : "before the end of the plan";
  const lines: string[] = [];
  for (const r of cell.reasons) {
    switch (r.reason) {
      case "kept_dry":
        lines.push("Somebody wants it dry on this day.");
        break;
      case "not_due":
        lines.push(`Nothing is needed ${next(r.next)}: ${depth(r.room_mm)} is left.`);
        break;
      case "due":
        lines.push(
          `At least ${depth(r.needed_mm)} is needed ${next(r.next)}${r.passes_on ? `; without it too dry ${when(r.passes_on)}` : ""}.`,
        );
        break;
      case "starts_early":
        lines.push(`A later window carries ${depth(r.window_carries_mm)}, less than will be needed: it starts early.`);
        break;
      case "pulled_earlier":
        lines.push(`Moved here from ${when(r.from)}, which has no room for it.`);
        break;
      case "window_carries":
        lines.push(`The window carries ${depth(r.carries_mm)} of the refill of ${depth(r.refill_mm)}.`);
        break;
      case "room_for_rain":
        lines.push(`${depth(r.gives_mm)} of ${depth(r.refill_mm)} is given: room is left for rain.`);
        break;
      case "not_worthwhile":
        lines.push(`A soak under ${depth(r.soak_mm)} is not worth it yet.`);
        break;
      case "too_little":
        lines.push(`Less than the least pass of ${minutes(r.least_pass_s)} is needed.`);
        break;
      case "no_room":
        lines.push(
          `Other zones fill the window: ${depth(r.short_mm)} short, ${minutes(Math.ceil(r.more_s / 60) * 60)} more would make it fit.`,
        );
        break;
      case "skipped":
        lines.push(`${sentenceCase(skipWords(r.skip, units))}.`);
        break;
    }
  }
  return lines;
}

const PROPER: Partial<Record<ZonePlan["grass"], string>> = {
  kentucky_bluegrass: "Kentucky bluegrass",
  st_augustinegrass: "St. Augustinegrass",
};

/** A grass's name within a line. */
export const grassName = (grass: ZonePlan["grass"]) => PROPER[grass] ?? grass.replaceAll("_", " ");

/** Shortfalls below this are within what any figure here can be off, mm. */
const WORTH_SAYING_MM = 0.5;

/** What a person should see to, from a zone's reasons: said once a zone. */
export function warnings(zone: ZonePlan, today: string, units: Shown): string[] {
  const seen = new Map<string, string>();
  for (const cell of zone.cells) {
    for (const r of cell.reasons) {
      if (seen.has(r.reason)) continue;
      if (r.reason === "repair_soil")
        seen.set(r.reason, "The soil drinks next to nothing: open it before you water more.");
      if (r.reason === "repair_sprinklers")
        seen.set(r.reason, `Evenness ${r.evenness.toFixed(2)}: repair the sprinklers first; longer runs do not help.`);
      if (r.reason === "runs_off")
        seen.set(r.reason, `${units.show("depth", r.runoff_mm)} runs off even in the shortest pass.`);
      if (r.reason === "roots_limit")
        seen.set(
          r.reason,
          `Roots hold ${units.show("depth", r.raw_mm)}, a day uses ${units.show("depth", r.etc_mm)}: they limit you to every ${r.every_days === 1 ? "day" : `${r.every_days} days`}. Help them down: mow higher, open the soil.`,
        );
      if (r.reason === "no_room" && r.short_mm >= WORTH_SAYING_MM)
        seen.set(r.reason, `No room ${whenDay(cell.date, today)}: allow more hours, or give it by hand.`);
    }
  }
  return [...seen.values()];
}

/** When a zone goes too dry in spite of the plan, and whether rain that it waits for may help; nothing if it does not. */
export function goesTooDry(zone: ZonePlan): { date: string; waits: boolean } | undefined {
  const waits = zone.cells.some((c) => find(c.reasons, "held_for_rain"));
  for (const cell of zone.cells) {
    const short = find(cell.reasons, "shortfall");
    if (short && short.short_mm >= WORTH_SAYING_MM) return { date: short.date, waits };
  }
  return undefined;
}

/** What to do about a zone that goes too dry. */
export function tooDryWords(dry: { date: string; waits: boolean }, today: string): string {
  return `${dry.waits ? "If no rain comes, it" : "It"} goes too dry ${whenDay(dry.date, today)}: hose it then, or accept some browning.`;
}

/** Where a figure comes from. */
export function sourceWords(source: ReasonOf<"at_rate">["rate_mm_h"]["source"]): string {
  switch (source.kind) {
    case "measured":
      return `measured here: ${source.test}, ${source.date}`;
    case "handbook":
      return `handbook: ${source.table}`;
    case "assumed":
      return "assumed";
  }
}
