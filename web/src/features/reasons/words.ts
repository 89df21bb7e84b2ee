// Verdicts, ledger lines and warnings in words, in the reader's units: the only place where they become prose. Each switch names every kind,
// so that a new one does not compile until it has words.
import type { Cell, LedgerLine, Verdict, Warning, ZonePlan } from "../../api";
import type { Shown } from "../../quantities";
import { dayMonth, minutes, sentenceCase, whenDay } from "../../time";
import { REPELLENCY } from "../soil/words";

export type LineOf<K extends LedgerLine["line"]> = Extract<LedgerLine, { line: K }>;
type NotWateredIn = Extract<Warning, { warning: "not_watered_in" }>["because"];
type VerdictOf<K extends Verdict["verdict"]> = Extract<Verdict, { verdict: K }>;

/** Rain forecast below this probability is shown as dry, %. */
export const LEAST_SHOWN_PCT = 5;

/** The first line of a kind. */
export function find<K extends LedgerLine["line"]>(ledger: LedgerLine[], kind: K): LineOf<K> | undefined {
  return ledger.find((l): l is LineOf<K> => l.line === kind);
}

export function skipWords(skip: VerdictOf<"skipped">["skip"], units: Shown): string {
  switch (skip.because) {
    case "frost":
      return `it may freeze: ${units.show("temperature", skip.tmin_c)} expected`;
    case "wind":
      return `too windy: ${units.show("wind", skip.dawn_m_s)}, the limit is ${units.show("wind", skip.limit_m_s)}`;
    case "rained":
      return `${units.show("depth", skip.rain_mm)} of rain in the last 24 hours`;
    case "sure_rain":
      return `rain will do it: ${Math.round(skip.probability_pct)} % likely to bring ${units.show("depth", skip.rain_mm)}`;
    case "kept_dry":
      return "somebody wants it dry on this day";
    case "taken_out":
      return "somebody took the day out of the plan";
  }
}

/** `12.3 of 20.8 mm used`: at the moment of the decision. */
function usedWords(cell: Cell, units: Shown): string {
  const dry = find(cell.ledger, "depletion");
  const [used, allowed] = dry ? [dry.depletion_mm, dry.raw_mm] : [cell.depletion_start_mm, cell.raw_mm];
  return `${units.figure("depth", used)} of ${units.show("depth", allowed)} used`;
}

/** A chance that is worth saying beside "if it stays dry", in percent; undefined where it is as good as certain. */
export const staysDry = (chancePct: number): number | undefined =>
  chancePct >= 95 ? undefined : Math.max(1, Math.round(chancePct));

/** `Friday at 10:00`: a time of the site's clock, `2026-06-19T10:00:00`. */
export const atClock = (civil: string, today: string) =>
  `${whenDay(civil.slice(0, 10), today)} at ${civil.slice(11, 16)}`;

/** What leaves no more of a volume: a rule by its name, or what the water comes from. */
const capped = (rule: string | null | undefined) => (rule ? `“${rule}”` : "The tank or well");

/** `day is on Friday`, or the same day's next hours. */
const nextWords = (cell: Cell, next: string, today: string) =>
  next === cell.date ? "hours are the same day" : `day is ${whenDay(next, today)}`;

/** The longer that a window would have to be, in whole minutes. */
const more = (seconds: number) => minutes(Math.ceil(seconds / 60) * 60);

/** The one thing that decided a zone's day, after how dry it is; undefined where that says it all. */
function deciding(cell: Cell, verdict: Verdict, today: string, units: Shown): string | undefined {
  const depth = (mm: number) => units.show("depth", mm);
  const when = (date: string) => whenDay(date, today);
  switch (verdict.verdict) {
    case "absent":
    case "over":
    case "switched_off":
    case "flow_above_supply":
      return undefined;
    case "skipped":
      return `but ${skipWords(verdict.skip, units)}`;
    case "no_room":
      return `other zones fill the window; ${more(verdict.more_s)} more would make it fit`;
    case "no_window":
      return verdict.passes_on
        ? `no allowed day in the plan; too dry ${when(verdict.passes_on)}`
        : "no allowed day in the plan, and none is needed";
    case "held_for_rain":
      return `rain is ${Math.round(verdict.probability_pct)} % likely to bring it back within its limit before ${when(verdict.before)}: it waits`;
    case "starts_for_others":
      return `watered early: the nights up to ${when(verdict.until)} are full`;
    case "starts_early":
      return `later windows carry ${depth(verdict.window_carries_mm)} each, less than it needs: it starts early`;
    case "fixed":
      return "somebody has set what runs";
    case "waters_in":
      return `what was put down is watered in, by ${atClock(verdict.by, today)}`;
    case "due": {
      const without = verdict.passes_on ? `without water too dry ${when(verdict.passes_on)}` : "water is due";
      const next = verdict.next ? `, and the next watering ${nextWords(cell, verdict.next, today)}` : "";
      return `${without}${next}${verdict.leaves_room ? "; room is left for rain" : ""}`;
    }
    case "not_worthwhile":
      return `a soak under ${depth(verdict.soak_mm)} is not worth it yet`;
    case "too_little":
      return `less than the least pass of ${minutes(verdict.least_pass_s)} is needed`;
    case "not_due":
      return verdict.next
        ? verdict.next === cell.date
          ? `${depth(verdict.room_mm)} left by the day's next allowed hours`
          : `${depth(verdict.room_mm)} left by the next watering day, ${when(verdict.next)}`
        : `${depth(verdict.room_mm)} left at the end of the plan`;
    case "no_hours":
      return `no allowed hours ${cell.date === today ? "left today" : "that day"}`;
    case "closed_by_rule":
      return closedWords(verdict, when);
    case "too_late":
      return `the day’s hours are too late for it: a leaf that stays wet by night falls ill${verdict.next ? `; the next good ones are ${when(verdict.next)}` : ""}`;
    case "rationed":
      return `${capped(verdict.rule).replace("The", "the")} leaves it nothing: ${depth(verdict.short_mm)} short; ${enoughWords(verdict.more_l, units)}`;
    case "surface_due":
    case "surface_waits":
      return undefined;
    case "rule_due":
      if (verdict.rule.rule === "crowns") return `it is let go; ${ruleWords(verdict.rule, units)}: due`;
      return `${ruleWords(verdict.rule, units)}: it is due; ${balanceWords(verdict.balance_mm, units)}`;
    case "rule_waits":
      if (verdict.rule.rule === "crowns") return `it is let go; its crowns are watered next ${when(verdict.on)}`;
      return `${ruleWords(verdict.rule, units)}: next ${when(verdict.on)}; ${balanceWords(verdict.balance_mm, units)}`;
    default:
      return unworded(verdict);
  }
}

/** What would make a volume enough. */
const enoughWords = (more_l: number, units: Shown) =>
  more_l > 0 ? `${units.show("volume", more_l)} more would keep every zone from harm` : "no zone is harmed by it";

/** That a local rule closes a day, and when the next is open. */
const closedWords = ({ rule, next }: { rule: string; next?: string | null }, when: (date: string) => string) =>
  `“${rule}” leaves it no hours${next ? `; the next are ${when(next)}` : ", nor on any day of the plan"}`;

/** A kind without words: none, or this does not compile. */
const unworded = (_kind: never): undefined => undefined;

type Rule = VerdictOf<"rule_due">["rule"];

/** `1 day`, `3 days`. */
const dayCount = (days: number) => (days === 1 ? "day" : `${days} days`);

/** A rule of the calendar, as it stands. */
export function ruleWords(rule: Rule, units: Shown): string {
  const depth = (mm: number) => units.show("depth", mm);
  switch (rule.rule) {
    case "weekly_target":
      return `${depth(rule.given_mm + rule.rain_mm)} of the week’s ${depth(rule.target_mm)} so far, ${depth(rule.rain_mm)} of it rain`;
    case "fixed_interval":
      return `${depth(rule.depth_mm)} every ${dayCount(rule.every_days)}`;
    case "crowns":
      return `${depth(rule.depth_mm)} for its crowns every ${dayCount(rule.every_days)} without rain`;
    case "every_other_day":
      return `${rule.run_minutes} min every ${dayCount(rule.every_days)}`;
  }
}

const balanceWords = (mm: number, units: Shown) =>
  mm > 0 ? `the water balance would give ${units.show("depth", mm)}` : "the water balance would wait";

/** Why a zone does what it does on a day, in one sentence. */
export function sentence(cell: Cell, verdict: Verdict, today: string, units: Shown): string {
  switch (verdict.verdict) {
    case "surface_due":
    case "surface_waits":
      return `${surfaceWords(verdict, today, units)}.`;
    case "switched_off":
      return "Switched off.";
    case "flow_above_supply":
      return `It takes ${units.show("flow", verdict.flow_l_min)}; the supply gives ${units.show("flow", verdict.supply_l_min)}.`;
    default: {
      const why = deciding(cell, verdict, today, units);
      return `${usedWords(cell, units)}${why ? `${why.startsWith("but ") ? ", " : "; "}${why}` : ""}.`;
    }
  }
}

type Surface = VerdictOf<"surface_due">;

/** How far new grass has come. */
export const STAGES: Record<Surface["stage"], string> = {
  not_up: "nothing is up yet",
  up: "it is up",
  filling_in: "it roots and fills in",
  established: "it stands",
};

/** The top of new grass at a slot: what it lacks, how dry it would be by the next, and how dry it may be. */
function surfaceWords(surface: Omit<Surface, "verdict">, today: string, units: Shown): string {
  const depth = (mm: number) => units.show("depth", mm);
  const top = surface.lacks_mm < 0.05 ? "its top is moist" : `its top lacks ${depth(surface.lacks_mm)}`;
  const lacks = `${sentenceCase(STAGES[surface.stage])}; ${top}`;
  if (surface.limit_mm == null) {
    const days = surface.every_days ?? 1;
    return `${lacks}; watered ${days === 1 ? "once a day" : `every ${days} days`} now, as deep as its roots go`;
  }
  const at = surface.next?.slice(11, 16);
  const by = surface.next ? `by ${whenDay(surface.next.slice(0, 10), today)} ${at}` : "by the next evening";
  return `${lacks} and would lack ${depth(surface.driest_mm)} ${by} without water; ${depth(surface.limit_mm)} is the most it may`;
}

const byWhat = (rule: Rule) => (rule.rule === "crowns" ? "Let go" : "By the calendar");

/** A line that bore on the decision; undefined for what the other parts of the working say. */
function bearing(line: LedgerLine, today: string, units: Shown): string | undefined {
  const depth = (mm: number) => units.show("depth", mm);
  const when = (date: string) => whenDay(date, today);
  const next = (date: string | null | undefined) =>
    date ? `before the next watering day, ${when(date)}` : "before the end of the plan";
  switch (line.line) {
    case "closed_by_rule":
      return `${closedWords(line, when)}.`;
    case "rationed":
      return `${capped(line.rule)} leaves ${units.show("volume", line.left_l)} for all: it gets ${depth(line.gives_mm)} of ${depth(line.wanted_mm)}, the rest goes where it prevents more harm; ${enoughWords(line.more_l, units)}.`;
    case "too_late":
      return "The day’s hours are too late for it: a leaf that stays wet by night falls ill. Who insists allows them with the zone’s figures; a bad hour still beats a dead lawn.";
    case "kept_dry":
      return "Somebody wants it dry on this day.";
    case "kept_dry_hours":
      return `It must stay dry from ${atClock(line.from, today)} until ${atClock(line.until, today)}.`;
    case "waters_in":
      return `What was put down is to be watered in with ${depth(line.net_mm)} by ${atClock(line.by, today)}.`;
    case "fixed":
      return "Somebody has set what runs.";
    case "not_due":
      return `Nothing is needed ${next(line.next)}: ${depth(line.room_mm)} is left.`;
    case "due":
      return `At least ${depth(line.needed_mm)} is needed ${next(line.next)}${line.passes_on ? `; without it too dry ${when(line.passes_on)}` : ""}.`;
    case "starts_early":
      return `A later window carries ${depth(line.window_carries_mm)}, less than will be needed: it starts early.`;
    case "starts_for_others":
      return `The nights up to ${when(line.until)} hold ${minutes(line.hold_s)} after this one, ${minutes(line.needed_s)} are needed by then: the rest starts now.`;
    case "gives_way":
      return `It gives way to other zones: ${depth(line.gives_mm)} of ${depth(line.wanted_mm)}; ${more(line.more_s)} more would make all fit.`;
    case "window_carries":
      return `The window carries ${depth(line.carries_mm)} of the ${depth(line.refill_mm)} that it should get.`;
    case "room_for_rain":
      return `${depth(line.gives_mm)} of ${depth(line.refill_mm)} is given: room is left for rain.`;
    case "not_worthwhile":
      return `A soak under ${depth(line.soak_mm)} is not worth it yet.`;
    case "too_little":
      return `Less than the least pass of ${minutes(line.least_pass_s)} is needed.`;
    case "no_room":
      return `Other zones fill the window: ${depth(line.short_mm)} short, ${more(line.more_s)} more would make it fit.`;
    case "skipped":
      return `${sentenceCase(skipWords(line.skip, units))}.`;
    case "rule":
      return line.asks_mm > 0
        ? `${byWhat(line.rule)}: ${ruleWords(line.rule, units)}${soakWords(line.rule)}. It asks for ${depth(line.asks_mm)}.`
        : `${byWhat(line.rule)}: ${ruleWords(line.rule, units)}. It asks again ${when(line.on)}.`;
    case "surface":
      return `${surfaceWords(line, today, units)}; ${depth(line.tew_mm)} is all that can evaporate from it.`;
    case "balance_would":
      return line.gives_mm > 0
        ? `The water balance would give this ground ${depth(line.gives_mm)}.`
        : `The water balance would ${line.for_rain ? "wait for rain" : "give nothing yet"}.`;
    // The account of depletion, the minutes, rain and the figures have parts of their own.
    case "no_window":
    case "ran":
    case "storage":
    case "crop_et":
    case "account":
    case "corrected":
    case "drift":
    case "depletion":
    case "held_for_rain":
    case "rain_compared":
    case "refill":
    case "asked":
    case "unevenness":
    case "spray_loss":
    case "rounding":
    case "at_rate":
    case "passes":
    case "set_on_controller":
      return undefined;
    default:
      return unworded(line);
  }
}

/** Which of the week's soaks comes next. */
const soakWords = (rule: Rule) =>
  rule.rule === "weekly_target" && rule.soaks > 1 ? `, soak ${rule.soak} of ${rule.soaks}` : "";

/** Everything that bore on the decision, one line each: the row says only what decided. */
export const bearings = (ledger: LedgerLine[], today: string, units: Shown): string[] =>
  ledger.map((line) => bearing(line, today, units)).filter((words) => words !== undefined);

const PROPER: Partial<Record<ZonePlan["grass"], string>> = {
  kentucky_bluegrass: "Kentucky bluegrass",
  st_augustinegrass: "St. Augustinegrass",
};

/** A grass's name within a line. */
/** Whether a zone's grass is new: it is watered by its surface, several times a day. */
export const isNewGrass = (regime: ZonePlan["regime"]) => regime === "seedbed" || regime === "filling_in";

/** Whether a zone's turf is planned by the balance of its root zone. */
export const isRooted = (regime: ZonePlan["regime"]) => regime !== "off" && !isNewGrass(regime);

export const grassName = (grass: ZonePlan["grass"]) => PROPER[grass] ?? grass.replaceAll("_", " ");

/** What a zone is watered for. */
export const growsName = (zone: { grass: ZonePlan["grass"]; plants?: ZonePlan["plants"] | undefined }) =>
  zone.plants === "trees" ? "trees in the lawn" : grassName(zone.grass);

/** What a person should see to; undefined for what is too little to say, or is said elsewhere. */
function warningWords(cell: Cell, warning: Warning, today: string, units: Shown): string | undefined {
  switch (warning.warning) {
    case "repair_soil":
      return "The soil drinks next to nothing: open it before you water more.";
    case "repair_sprinklers":
      return `Evenness ${warning.evenness.toFixed(2)}: repair the sprinklers first; longer runs do not help.`;
    case "repels_water":
      return `The ground is ${REPELLENCY[warning.repellency]}: light passes with soaks, and a wetting agent at its label’s rate, for weeks; put drops on it again to see.`;
    case "runs_off":
      return `${units.show("depth", warning.runoff_mm)} runs off even in the shortest pass.`;
    case "roots_limit":
      return `Roots hold ${units.show("depth", warning.raw_mm)}, a day uses ${units.show("depth", warning.etc_mm)}: they limit you to every ${warning.every_days === 1 ? "day" : `${warning.every_days} days`}. Help them down: mow higher, open the soil.`;
    case "no_room":
      return `The hours leave no room for all that it needs ${whenDay(cell.date, today)} (${units.show("depth", warning.short_mm)} short): allow more, or give the rest by hand.`;
    case "rationed":
      return `${capped(warning.rule)} leaves it ${units.show("depth", warning.short_mm)} short ${whenDay(cell.date, today)}; ${enoughWords(warning.more_l, units)}.`;
    case "surface_dry": {
      const from = `${String(warning.from_hour).padStart(2, "0")}:00`;
      const hours = warning.hours === 1 ? "an hour" : `${warning.hours} hours`;
      return `Its top is too dry ${whenDay(cell.date, today)} from ${from}, for ${hours} in all: ${dryWords(warning, units)}. Seed that dries once it has drunk dies: a thin stand is likely.`;
    }
    case "edit_drains":
      return `What somebody set ${whenDay(cell.date, today)} is more than is missing: ${units.show("depth", warning.drains_mm)} would drain below the roots.`;
    case "edit_freezes":
      return `What somebody set ${whenDay(cell.date, today)} falls on a night that may freeze (${units.show("temperature", warning.tmin_c)}): water on paving turns to ice, and people slip on it.`;
    case "edit_has_no_hours":
      return `Somebody set a watering ${whenDay(cell.date, today)}, and there are no allowed hours for it.`;
    case "not_watered_in":
      return `Not watered in by ${atClock(warning.by, today)}: ${units.show("depth", warning.short_mm)} short, ${notInWords(warning.because, units)}.`;
    case "shortfall":
      // Said with what to do: see goesTooDry.
      return undefined;
  }
}

/** Why the top of new grass is too dry, and what would help. */
function dryWords(warning: Extract<Warning, { warning: "surface_dry" }>, units: Shown): string {
  const { why } = warning;
  switch (why.because) {
    case "hours_apart":
      return warning.rule
        ? `“${warning.rule}” leaves it no hours; ask for a permit for new seed`
        : "its waterings are too far apart for so dry a day; mist it by hand between them, or allow hours at noon where there are none";
    case "too_little":
      return "it lacked less than the shortest run gives; mist it by hand";
    case "no_room":
      return "the hours did not hold what it needs; mist it by hand";
    case "volume":
      return "too little water was left for it";
    case "forbidden":
      return skipWords(why.skip, units);
    case "missed":
      return "it was due by hand, and nobody noted that it was done";
    case "faster":
      return "it dried faster than was expected";
  }
}

/** Why something is not watered in, and what to do. */
function notInWords(because: NotWateredIn, units: Shown): string {
  switch (because.because) {
    case "not_planned":
      return "because the zone is not planned here; do it by hand";
    case "no_hours":
      return "because there are no allowed hours before; ask whether it may be done by hand";
    case "closed":
      return "because rules, or the late hour, close the hours before; ask whether it may be done by hand";
    case "forbidden":
      return `because ${because.skip.because === "kept_dry" ? "it must stay dry until then: one of the two entries has to go" : skipWords(because.skip, units)}`;
    case "no_room":
      return "because the hours, or the water there is, carry no more";
  }
}

/** What a person should see to, each kind once a zone. */
export function warnings(zone: ZonePlan, today: string, units: Shown): string[] {
  const seen = new Map<string, string>();
  for (const cell of zone.cells) {
    for (const warning of cell.warnings) {
      const words = seen.has(warning.warning) ? undefined : warningWords(cell, warning, today, units);
      if (words) seen.set(warning.warning, words);
    }
  }
  return [...seen.values()];
}

/** When a zone goes too dry in spite of the plan, and whether rain that it waits for may help; nothing if it does not. */
export function goesTooDry(zone: ZonePlan): { date: string; waits: boolean } | undefined {
  for (const warning of zone.cells.flatMap((cell) => cell.warnings)) {
    if (warning.warning === "shortfall") return { date: warning.date, waits: warning.rain_may_help };
  }
  return undefined;
}

/** What to do about a zone that goes too dry. */
export function tooDryWords(dry: { date: string; waits: boolean }, today: string): string {
  return `${dry.waits ? "If no rain comes, it" : "It"} goes too dry ${whenDay(dry.date, today)}: hose it then, or accept some browning.`;
}

type Source = LineOf<"at_rate">["rate_mm_h"]["source"];

/** Where a figure comes from, and since when it is so. */
export const sourceWords = (source: Source, since?: string | null) =>
  `${originWords(source)}${since ? `; so since ${dayMonth(since)}` : ""}`;

function originWords(source: Source): string {
  switch (source.kind) {
    case "measured":
      return `measured here: ${source.test}, ${source.date}`;
    case "entered":
      return `typed ${dayMonth(source.date)}`;
    case "handbook":
      return `handbook: ${source.table}`;
    case "assumed":
      return "assumed";
  }
}

/** `7.9 of 25.0 mm`: what a zone got since Monday, rain that entered the soil counted, of its target or of what its plan brings it to until Sunday. */
export function weekSum(sum: ZonePlan["this_week"], units: Shown): string {
  const got = units.figure("depth", sum.got_mm);
  const of = units.show("depth", sum.of_mm);
  return sum.target || units.figure("depth", sum.of_mm) !== got ? `${got} of ${of}` : of;
}
