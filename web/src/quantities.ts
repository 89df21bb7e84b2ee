// The reader's units: the only place where they exist besides text output. Switching never changes a stored value.

export type System = "metric" | "us";
export type Quantity =
  | "depth"
  | "rate"
  | "area"
  | "patch"
  | "seed"
  | "seed_rate"
  | "volume"
  | "bucket"
  | "bulk"
  | "root_depth"
  | "temperature"
  | "temperature_difference"
  | "warmth"
  | "throat"
  | "length"
  | "distance"
  | "wind"
  | "elevation"
  | "flow"
  | "nozzle_flow"
  | "hose_flow"
  | "pressure"
  | "price";

type Unit = { label: string; factor: number; offset?: number; digits: number };

const MM_PER_INCH = 25.4;
const M2_PER_FT2 = 0.3048 * 0.3048;
const KPA_PER_PSI = 6.894757293;
const KG_PER_LB = 0.45359237;
const L_PER_GALLON = 3.785411784;

// factor: how many of the shown unit make one stored (SI) unit.
const UNITS: Record<Quantity, Record<System, Unit>> = {
  depth: { metric: { label: "mm", factor: 1, digits: 1 }, us: { label: "in", factor: 1 / MM_PER_INCH, digits: 2 } },
  rate: { metric: { label: "mm/h", factor: 1, digits: 1 }, us: { label: "in/h", factor: 1 / MM_PER_INCH, digits: 2 } },
  area: { metric: { label: "m²", factor: 1, digits: 0 }, us: { label: "ft²", factor: 1 / M2_PER_FT2, digits: 0 } },
  patch: { metric: { label: "m²", factor: 1, digits: 1 }, us: { label: "ft²", factor: 1 / M2_PER_FT2, digits: 0 } },
  seed_rate: {
    metric: { label: "g/m²", factor: 1000, digits: 0 },
    us: { label: "lb/1000 ft²", factor: (1000 * M2_PER_FT2) / KG_PER_LB, digits: 1 },
  },
  seed: { metric: { label: "kg", factor: 1, digits: 2 }, us: { label: "lb", factor: 1 / KG_PER_LB, digits: 2 } },
  volume: {
    metric: { label: "m³", factor: 0.001, digits: 1 },
    us: { label: "gal", factor: 1 / L_PER_GALLON, digits: 0 },
  },
  bulk: {
    metric: { label: "m³", factor: 0.001, digits: 2 },
    us: { label: "cu ft", factor: 1 / 28.316846592, digits: 0 },
  },
  bucket: {
    metric: { label: "L", factor: 1, digits: 1 },
    us: { label: "gal", factor: 1 / L_PER_GALLON, digits: 1 },
  },
  root_depth: {
    metric: { label: "cm", factor: 0.1, digits: 1 },
    us: { label: "in", factor: 1 / MM_PER_INCH, digits: 1 },
  },
  temperature: {
    metric: { label: "°C", factor: 1, digits: 0 },
    us: { label: "°F", factor: 1.8, offset: 32, digits: 0 },
  },
  warmth: {
    metric: { label: "°C·d", factor: 1, digits: 0 },
    us: { label: "°F·d", factor: 1.8, digits: 0 },
  },
  throat: {
    metric: { label: "cm²", factor: 1, digits: 0 },
    us: { label: "in²", factor: 1 / (MM_PER_INCH / 10) ** 2, digits: 1 },
  },
  distance: {
    metric: { label: "km", factor: 0.001, digits: 0 },
    us: { label: "mi", factor: 1 / 1609.344, digits: 0 },
  },
  length: { metric: { label: "m", factor: 1, digits: 1 }, us: { label: "ft", factor: 1 / 0.3048, digits: 1 } },
  temperature_difference: {
    metric: { label: "°C", factor: 1, digits: 1 },
    us: { label: "°F", factor: 1.8, digits: 1 },
  },
  wind: { metric: { label: "m/s", factor: 1, digits: 1 }, us: { label: "mph", factor: 1 / 0.44704, digits: 0 } },
  elevation: { metric: { label: "m", factor: 1, digits: 0 }, us: { label: "ft", factor: 1 / 0.3048, digits: 0 } },
  flow: { metric: { label: "L/min", factor: 1, digits: 0 }, us: { label: "gpm", factor: 1 / L_PER_GALLON, digits: 1 } },
  hose_flow: {
    metric: { label: "L/min", factor: 1, digits: 1 },
    us: { label: "gpm", factor: 1 / L_PER_GALLON, digits: 1 },
  },
  nozzle_flow: {
    metric: { label: "L/min", factor: 1, digits: 1 },
    us: { label: "gpm", factor: 1 / L_PER_GALLON, digits: 2 },
  },
  pressure: {
    metric: { label: "kPa", factor: 1, digits: 0 },
    us: { label: "psi", factor: 1 / KPA_PER_PSI, digits: 0 },
  },
  price: {
    metric: { label: "per m³", factor: 1, digits: 2 },
    us: { label: "per 1000 gal", factor: L_PER_GALLON, digits: 2 },
  },
};

/** What is shown of quantities in one system of units. */
export type Shown = {
  system: System;
  label: (quantity: Quantity) => string;
  /** The figure alone, rounded for reading. */
  figure: (quantity: Quantity, si: number) => string;
  /** Figures that are added up on screen: rounded so that they add up to their rounded sum, the last of them. */
  account: (quantity: Quantity, parts: number[], sum: number) => string[];
  /** Figure and unit. */
  show: (quantity: Quantity, si: number) => string;
  /** A stored value as it goes into a field from which it is read again. */
  toField: (quantity: Quantity, si: number) => string;
  /** A stored value as it is read in a field that keeps it to the last digit: without noise of the conversion. */
  inField: (quantity: Quantity, si: number) => string;
  /** A typed value as it is stored. */
  toSi: (quantity: Quantity, typed: number) => number;
};

const OFFSETS = (unit: Unit) => unit.offset ?? 0;

/** Whole numbers nearest to some figures that add up to a whole number: those that rounding moved furthest give way. */
function addingUp(parts: number[], sum: number): number[] {
  const rounded = parts.map((x) => Math.round(x));
  let missing = sum - rounded.reduce((a, b) => a + b, 0);
  const byError = parts
    .map((x, i) => ({ i, over: x - (rounded[i] ?? 0) }))
    .sort((a, b) => (missing > 0 ? b.over - a.over : a.over - b.over));
  for (const { i } of byError) {
    // Only what rounding can have moved: a sum that is no sum is left as it is.
    if (missing === 0 || Math.abs(missing) > parts.length) break;
    rounded[i] = (rounded[i] ?? 0) + Math.sign(missing);
    missing -= Math.sign(missing);
  }
  return rounded;
}

/** A converted figure as it goes into a field. One with few digits was typed so; of others, four say what is meant. */
function withoutNoise(value: number): string {
  const exact = Number(value.toPrecision(7));
  const digits = exact.toExponential().replace(/e.*/, "").replace(/\D/g, "").length;
  if (digits <= 5) return String(exact);
  const whole = 1 + Math.floor(Math.log10(Math.abs(exact)));
  return String(Number(exact.toPrecision(Math.max(4, whole))));
}

/** Quantities in a system of units. */
export function shownIn(system: System): Shown {
  const unit = (quantity: Quantity) => UNITS[quantity][system];
  const convert = (quantity: Quantity, si: number) => si * unit(quantity).factor + OFFSETS(unit(quantity));
  const text = (value: number, digits: number) =>
    new Intl.NumberFormat("en", { minimumFractionDigits: digits, maximumFractionDigits: digits })
      .format(value)
      .replace(/^-(0(\.0+)?)$/, "$1")
      .replace("-", "−");
  const figure = (quantity: Quantity, si: number) => text(convert(quantity, si), unit(quantity).digits);
  return {
    system,
    label: (quantity) => unit(quantity).label,
    figure,
    account: (quantity, parts, sum) => {
      const { factor, digits } = unit(quantity);
      const scale = 10 ** digits;
      const whole = Math.round(sum * factor * scale);
      const rounded = addingUp(
        parts.map((x) => x * factor * scale),
        whole,
      );
      return [...rounded, whole].map((x) => text(x / scale, digits));
    },
    show: (quantity, si) => `${figure(quantity, si)} ${unit(quantity).label}`,
    toField: (quantity, si) => String(Number(convert(quantity, si).toPrecision(7))),
    inField: (quantity, si) => withoutNoise(convert(quantity, si)),
    toSi: (quantity, typed) => (typed - OFFSETS(unit(quantity))) / unit(quantity).factor,
  };
}
