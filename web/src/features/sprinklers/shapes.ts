// Shapes of a zone as a tape measures them: their fields, and the outline that is asked for.
import type { Schemas } from "../../api";
import type { Quantity } from "../../quantities";
import { type Figures, rounded } from "../forms/figures";

export type ShapeName = Schemas["Shape"]["shape"];
export type Heads = Schemas["HeadPattern"];

export const SHAPES: { value: ShapeName; label: string }[] = [
  { value: "rectangle", label: "Rectangle" },
  { value: "ell", label: "L" },
  { value: "strip", label: "Strip" },
  { value: "circle", label: "Circle" },
  { value: "polygon", label: "By sides" },
];

/** Fields of each shape besides a polygon's sides: name in the API, label. */
export const FIELDS: Record<Exclude<ShapeName, "polygon">, [string, string][]> = {
  rectangle: [
    ["width_m", "Width"],
    ["length_m", "Length"],
  ],
  strip: [
    ["length_m", "Length"],
    ["width_m", "Width"],
  ],
  ell: [
    ["width_m", "Width"],
    ["length_m", "Length"],
    ["notch_width_m", "Missing corner's width"],
    ["notch_length_m", "Missing corner's length"],
  ],
  circle: [["diameter_m", "Diameter"]],
};

const side = (area: number) => rounded("length", Math.sqrt(area));
const across = (area: number) => rounded("length", Math.sqrt(2 * area));
const indexed = (key: string, count: number) => Array.from({ length: count }, (_, i) => `shape.${key}[${i}]`);
/** A polygon's measures: its sides, and from the first corner to each across. */
const measures = (sides: number) => [...indexed("sides_m", sides), ...indexed("diagonals_m", sides - 3)];

/** Figures to begin with: a square of the zone's area, in round figures, with four cans a side. */
export function usualShape(area: number): Parameters<Figures["fill"]>[0] {
  const half = rounded("length", Math.sqrt(area) / 2);
  return {
    "shape.width_m": side(area),
    "shape.length_m": side(area),
    "shape.diameter_m": side(area),
    "shape.notch_width_m": half,
    "shape.notch_length_m": half,
    ...Object.fromEntries(indexed("sides_m", 4).map((name) => [name, side(area)])),
    "shape.diagonals_m[0]": across(area),
    columns: 4,
    rows: 4,
  };
}

/** What changes with the shape: a strip is twice as long as a square, with two rows of cans. */
export function fillShape(figures: Figures, area: number, from: ShapeName, to: ShapeName) {
  const long = Math.sqrt(area) * 2;
  if (to === "strip") {
    figures.fill({
      "shape.length_m": rounded("length", long),
      "shape.width_m": rounded("length", area / long),
      columns: 8,
      rows: 2,
    });
  } else if (from === "strip") {
    figures.fill({ "shape.length_m": side(area), "shape.width_m": side(area), columns: 4, rows: 4 });
  }
}

/** Another number of sides: what was measured stays, new ones begin as a square's. */
export function fillSides(figures: Figures, area: number, sides: number) {
  const empty = measures(sides).filter((name) => figures.text(name, "length") === "");
  figures.fill(
    Object.fromEntries(empty.map((name) => [name, name.startsWith("shape.sides") ? side(area) : across(area)])),
  );
}

/** What must be a length between two sides' limits. */
export function lengthsOf(shape: ShapeName, sides: number): string[] {
  return shape === "polygon" ? measures(sides) : FIELDS[shape].map(([key]) => `shape.${key}`);
}

/** The shape that is asked for. */
export function shapeOf(shape: ShapeName, sides: number, si: (name: string, quantity?: Quantity) => number) {
  const m = (key: string) => si(`shape.${key}`, "length");
  const list = (key: string, count: number) => indexed(key, count).map((name) => si(name, "length"));
  const shapes: Record<ShapeName, Schemas["Shape"]> = {
    rectangle: { shape: "rectangle", width_m: m("width_m"), length_m: m("length_m") },
    strip: { shape: "strip", width_m: m("width_m"), length_m: m("length_m") },
    ell: {
      shape: "ell",
      width_m: m("width_m"),
      length_m: m("length_m"),
      notch_width_m: m("notch_width_m"),
      notch_length_m: m("notch_length_m"),
    },
    circle: { shape: "circle", diameter_m: m("diameter_m") },
    polygon: { shape: "polygon", sides_m: list("sides_m", sides), diagonals_m: list("diagonals_m", sides - 3) },
  };
  return shapes[shape];
}
