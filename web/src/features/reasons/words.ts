// Reasons in words, in the reader's units. The only place where reasons become prose.
import type { Cell, Reason, ZonePlan } from "../../api";
import { minutes, whenDay } from "../../time";
import type { Units } from "../../units";

export type ReasonOf<K extends Reason["reason"]> = Extract<Reason, { reason: K }>;

/** Rain forecast below this probability is shown as dry, %. */
export const LEAST_SHOWN_PCT = 5;

/** The first reason of a kind. */
export function find<K extends Reason["reason"]>(reasons: Reason[], kind: K): ReasonOf<K> | undefined {
  return reasons.find((r): r is ReasonOf<K> => r.reason === kind);
}

export function skipWords(skip: ReasonOf<"skipped">["skip"], units: Units): string {
  switch (skip.because) {
    case "frost":
      return `it may freeze: ${units.show("temperature", skip.tmin_c)} expected`;
    case "wind":
      return `too windy at dawn: ${units.show("wind", skip.dawn_m_s)}, the limit is ${units.show("wind", skip.limit_m_s)}`;
    case "rained":
      return `${units.show("depth", skip.rain_mm)} of rain in the last 24 hours`;
  }
}

/** Why a zone does what it does on a day, in one sentence. */
export function sentence(cell: Cell, today: string, units: Units): string {
  const r = cell.reasons;
  const depth = (mm: number) => units.show("depth", mm);
  const dry = find(r, "depletion");
  const used = dry
    ? `${units.figure("depth", dry.depletion_mm)} of ${depth(dry.raw_mm)} used`
    : `${units.figure("depth", cell.depletion_start_mm)} of ${depth(cell.raw_mm)} used`;
  const when = (date: string) => whenDay(date, today);

  if (find(r, "new_seed")) return "Not planned here yet; keep the top moist, never soaked.";
  if (find(r, "switched_off")) return "Switched off.";
  const flow = find(r, "flow_above_supply");
  if (flow)
    return `It takes ${units.show("flow", flow.flow_l_min)}; the supply gives ${units.show("flow", flow.supply_l_min)}.`;
  const skipped = find(r, "skipped");
  if (skipped) return `${used}, but ${skipWords(skipped.skip, units)}.`;
  const crowded = find(r, "no_room");
  if (crowded)
    return `${used}; other zones fill the window, ${minutes(Math.ceil(crowded.more_s / 60) * 60)} more would make it fit.`;
  const none = find(r, "no_window");
  if (none)
    return none.passes_on
      ? `${used}; no allowed day in the plan, its limit is passed ${when(none.passes_on)}.`
      : `${used}; no allowed day in the plan, and none is needed.`;
  const held = find(r, "held_for_rain");
  if (held) {
    const saves = held.saves_mm >= 0.5 ? `; holding saves ${depth(held.saves_mm)}` : "";
    const cost = saves && held.stress_mm >= 0.1 ? ` for ${depth(held.stress_mm)} of stress` : "";
    return `${used}; ${Math.round(held.probability_pct)} % chance of rain by ${when(held.next)}${saves}${cost}.`;
  }
  const room = find(r, "room_for_rain");
  if (room && cell.run) return `${used}; gives ${depth(room.gives_mm)}, the rest is left to rain.`;
  const pulled = find(r, "pulled_earlier");
  if (pulled && cell.run) return `${used}; moved here because ${when(pulled.from)} has no room.`;
  if (find(r, "starts_early") && cell.run)
    return `${used}; later windows cannot carry all it needs, so it starts early.`;
  const due = find(r, "due");
  if (due && cell.run) {
    const limit = due.passes_on ? `limit passed ${when(due.passes_on)}` : "limit passed";
    return due.next ? `${used}; ${limit}, next chance ${when(due.next)}.` : `${used}; ${limit}.`;
  }
  const soak = find(r, "not_worthwhile");
  if (soak) return `${used}; a soak under ${depth(soak.soak_mm)} is not worth it yet.`;
  const little = find(r, "too_little");
  if (little) return `${used}; less than the least pass of ${minutes(little.least_pass_s)} is needed.`;
  const notDue = find(r, "not_due");
  if (notDue)
    return notDue.next
      ? `${used}; ${depth(notDue.room_mm)} of room left by the next chance, ${when(notDue.next)}.`
      : `${used}; ${depth(notDue.room_mm)} of room left at the end of the plan.`;
  if (cell.state === "no_window")
    return `${used}; no allowed hours ${cell.date === today ? "left today" : "that day"}.`;
  return `${used}.`;
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
export function warnings(zone: ZonePlan, today: string, units: Units): string[] {
  const seen = new Map<string, string>();
  const waits = zone.cells.some((c) => find(c.reasons, "held_for_rain"));
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
      if (r.reason === "shortfall" && r.short_mm >= WORTH_SAYING_MM)
        seen.set(
          r.reason,
          `${waits ? "If no rain comes, it passes" : "Passes"} its limit ${whenDay(r.date, today)}, by up to ${units.show("depth", r.short_mm)}.`,
        );
      if (r.reason === "no_room" && r.short_mm >= WORTH_SAYING_MM)
        seen.set(r.reason, `No room ${whenDay(cell.date, today)}: ${units.show("depth", r.short_mm)} short.`);
    }
  }
  return [...seen.values()];
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
