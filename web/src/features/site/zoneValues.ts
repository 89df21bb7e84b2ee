// A zone as its form holds it: words and choices, and figures as they were typed.
import type { Schemas, Zone } from "../../api";
import type { Figures, Rule } from "../forms/figures";

export type Values = {
  name: string;
  grass: string;
  plants: string;
  how_green: string;
  regime: string;
  sown_on: string;
  new_grass_as: string;
  new_grass_by: string;
  new_grass_from: string;
  new_grass_to: string;
  late_hours: string;
  soil: string;
  soil_figures: string;
  exposure: string;
  sprinkler: string;
  active_from: string;
  priority: string;
};

export type Measured = "rate_mm_h" | "evenness_du_lq" | "root_depth_mm" | "minutes_to_runoff";
export type Plain =
  | "slope_pct"
  | "area_m2"
  | "setting_m2"
  | "allowable_depletion"
  | "initial_depletion_mm"
  | "deep_and_seldom_mm"
  | EdgeArea;

type Spot = Schemas["HotSpot"];
type EdgeArea = `edge_${Spot}`;

/** Kinds of places within a zone that dry out first. */
export const EDGES: Spot[] = ["paving", "sunny_slope", "tree_edge", "thin_soil", "windy_corner"];
const edgeArea: Rule = { range: "area_m2", quantity: "area" };

export const RULES: Record<Measured | Plain, Rule> = {
  slope_pct: { required: true },
  area_m2: { quantity: "area", required: true },
  setting_m2: { quantity: "area" },
  rate_mm_h: { quantity: "rate" },
  evenness_du_lq: {},
  root_depth_mm: { quantity: "root_depth" },
  minutes_to_runoff: {},
  allowable_depletion: {},
  initial_depletion_mm: { quantity: "depth" },
  deep_and_seldom_mm: { quantity: "depth" },
  edge_paving: edgeArea,
  edge_sunny_slope: edgeArea,
  edge_tree_edge: edgeArea,
  edge_thin_soil: edgeArea,
  edge_windy_corner: edgeArea,
};

/** The form of a zone, or of a new one. */
export function start(zone: Zone | undefined, today: string): Values {
  return {
    name: zone?.name ?? "",
    grass: zone?.grass ?? "tall_fescue",
    plants: zone?.plants ?? "turf",
    how_green: zone?.how_green ?? "good",
    regime: zone?.regime ?? "established",
    sown_on: zone?.sown_on ?? zone?.active_from ?? today,
    new_grass_as: zone?.new_grass_as ?? "seed",
    new_grass_by: zone?.new_grass_by_hand ? "hand" : "clock",
    new_grass_from: zone?.new_grass_hours?.from ?? "",
    new_grass_to: zone?.new_grass_hours?.to ?? "",
    late_hours: zone?.late_hours ?? "by_grass",
    soil: zone?.soil ?? "loam",
    soil_figures: zone?.soil_figures ?? "irrigation_association",
    exposure: zone?.exposure ?? "full_sun",
    sprinkler: zone?.sprinkler ?? "fixed_spray",
    active_from: zone ? (zone.active_from ?? "") : today,
    priority: String(zone?.priority ?? 5),
  };
}

/** The figures of a zone as its form begins with them. */
export const figuresOf = (zone: Zone | undefined): Parameters<Figures["fill"]>[0] => ({
  slope_pct: zone ? zone.slope_pct : 2,
  area_m2: zone?.area_m2,
  setting_m2: zone?.setting_m2,
  rate_mm_h: zone?.rate_mm_h?.value,
  evenness_du_lq: zone?.evenness_du_lq?.value,
  root_depth_mm: zone?.root_depth_mm?.value,
  minutes_to_runoff: zone?.minutes_to_runoff?.value,
  allowable_depletion: zone?.allowable_depletion,
  initial_depletion_mm: zone?.initial_depletion_mm,
  deep_and_seldom_mm: zone?.deep_and_seldom_mm,
  ...Object.fromEntries((zone?.hot_edges ?? []).map((edge) => [`edge_${edge.spot}`, edge.area_m2])),
});

/** Whether what grows is new, and has fields of its own. */
export const isNew = (values: Values) => values.regime === "seedbed" || values.regime === "filling_in";

/** What a form tells of new grass; of grass that stands it says nothing, and what was said of it stays. */
function newGrass(values: Values, before: Zone | undefined): Partial<Zone> {
  if (!isNew(values)) return {};
  const hours = values.new_grass_from !== "" || values.new_grass_to !== "";
  return {
    // The zone's own first day is not said twice.
    sown_on:
      values.sown_on === (before?.active_from ?? "") && !before?.sown_on ? undefined : values.sown_on || undefined,
    new_grass_as: values.new_grass_as === "seed" ? undefined : (values.new_grass_as as Zone["new_grass_as"]),
    new_grass_by_hand: values.new_grass_by === "hand" || undefined,
    new_grass_hours: hours ? { from: values.new_grass_from || "00:00", to: values.new_grass_to || "23:59" } : undefined,
  };
}

/** The zone that a form tells. */
export function zoneOf(values: Values, figures: Figures, before: Zone | undefined, today: string): Zone {
  const si = (name: Measured | Plain) => figures.si(name, RULES[name].quantity);
  const edges = EDGES.flatMap((spot) => {
    const area_m2 = si(`edge_${spot}`);
    return area_m2 === undefined ? [] : [{ spot, area_m2 }];
  });
  // What was not touched keeps its value, range and source to the last digit.
  const sourced = (name: Measured) => {
    if (!figures.typed(name)) return before?.[name];
    const value = si(name);
    if (value === undefined) return undefined;
    return {
      value,
      low: value,
      high: value,
      source: { kind: "entered" as const, date: today },
    };
  };
  return {
    ...before,
    name: values.name.trim(),
    grass: values.grass as Zone["grass"],
    plants: values.plants === "trees" ? "trees" : undefined,
    how_green: values.how_green as Zone["how_green"],
    regime: values.regime as Zone["regime"],
    ...newGrass(values, before),
    late_hours: values.late_hours === "by_grass" ? undefined : (values.late_hours as "evening"),
    soil: values.soil as Zone["soil"],
    // The usual is not said.
    soil_figures:
      values.soil_figures === "irrigation_association" ? undefined : (values.soil_figures as "saxton_rawls"),
    exposure: values.exposure as Zone["exposure"],
    sprinkler: values.sprinkler as Zone["sprinkler"],
    slope_pct: si("slope_pct") ?? 0,
    area_m2: si("area_m2") ?? 0,
    setting_m2: si("setting_m2"),
    rate_mm_h: sourced("rate_mm_h"),
    evenness_du_lq: sourced("evenness_du_lq"),
    root_depth_mm: sourced("root_depth_mm"),
    minutes_to_runoff: sourced("minutes_to_runoff"),
    allowable_depletion: si("allowable_depletion"),
    initial_depletion_mm: si("initial_depletion_mm"),
    deep_and_seldom_mm: si("deep_and_seldom_mm"),
    hot_edges: edges.length > 0 ? edges : undefined,
    active_from: values.active_from === "" ? undefined : values.active_from,
    priority: Number(values.priority),
  };
}
