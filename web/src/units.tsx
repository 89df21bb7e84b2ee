// The reader's units: the only place where they exist besides text output. Switching never changes a stored value.
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";

export type System = "metric" | "us";
export type Quantity =
  | "depth"
  | "rate"
  | "area"
  | "volume"
  | "root_depth"
  | "temperature"
  | "temperature_difference"
  | "throat"
  | "length"
  | "wind"
  | "elevation"
  | "flow"
  | "nozzle_flow"
  | "pressure"
  | "price";

type Unit = { label: string; factor: number; offset?: number; digits: number };

const MM_PER_INCH = 25.4;
const M2_PER_FT2 = 0.3048 * 0.3048;
const KPA_PER_PSI = 6.894757293;
const L_PER_GALLON = 3.785411784;

// factor: how many of the shown unit make one stored (SI) unit.
const UNITS: Record<Quantity, Record<System, Unit>> = {
  depth: { metric: { label: "mm", factor: 1, digits: 1 }, us: { label: "in", factor: 1 / MM_PER_INCH, digits: 2 } },
  rate: { metric: { label: "mm/h", factor: 1, digits: 1 }, us: { label: "in/h", factor: 1 / MM_PER_INCH, digits: 2 } },
  area: { metric: { label: "m²", factor: 1, digits: 0 }, us: { label: "ft²", factor: 1 / M2_PER_FT2, digits: 0 } },
  volume: {
    metric: { label: "m³", factor: 0.001, digits: 1 },
    us: { label: "gal", factor: 1 / L_PER_GALLON, digits: 0 },
  },
  root_depth: {
    metric: { label: "cm", factor: 0.1, digits: 1 },
    us: { label: "in", factor: 1 / MM_PER_INCH, digits: 1 },
  },
  temperature: {
    metric: { label: "°C", factor: 1, digits: 0 },
    us: { label: "°F", factor: 1.8, offset: 32, digits: 0 },
  },
  throat: {
    metric: { label: "cm²", factor: 1, digits: 0 },
    us: { label: "in²", factor: 1 / (MM_PER_INCH / 10) ** 2, digits: 1 },
  },
  length: { metric: { label: "m", factor: 1, digits: 1 }, us: { label: "ft", factor: 1 / 0.3048, digits: 1 } },
  temperature_difference: {
    metric: { label: "°C", factor: 1, digits: 1 },
    us: { label: "°F", factor: 1.8, digits: 1 },
  },
  wind: { metric: { label: "m/s", factor: 1, digits: 1 }, us: { label: "mph", factor: 1 / 0.44704, digits: 0 } },
  elevation: { metric: { label: "m", factor: 1, digits: 0 }, us: { label: "ft", factor: 1 / 0.3048, digits: 0 } },
  flow: { metric: { label: "L/min", factor: 1, digits: 0 }, us: { label: "gpm", factor: 1 / L_PER_GALLON, digits: 1 } },
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

export type Units = {
  system: System;
  setSystem: (system: System) => void;
  label: (quantity: Quantity) => string;
  /** The figure alone, rounded for reading. */
  figure: (quantity: Quantity, si: number) => string;
  /** Figure and unit. */
  show: (quantity: Quantity, si: number) => string;
  /** A stored value as it goes into a field: as it was typed, without noise of the conversion. */
  toField: (quantity: Quantity, si: number) => string;
  /** A typed value as it is stored. */
  toSi: (quantity: Quantity, typed: number) => number;
};

function unitsOf(system: System, setSystem: (system: System) => void): Units {
  const unit = (quantity: Quantity) => UNITS[quantity][system];
  const convert = (quantity: Quantity, si: number) => si * unit(quantity).factor + (unit(quantity).offset ?? 0);
  const figure = (quantity: Quantity, si: number) => {
    const digits = unit(quantity).digits;
    const text = new Intl.NumberFormat("en", { minimumFractionDigits: digits, maximumFractionDigits: digits }).format(
      convert(quantity, si),
    );
    return text.replace(/^-(0(\.0+)?)$/, "$1").replace("-", "−");
  };
  return {
    system,
    setSystem,
    label: (quantity) => unit(quantity).label,
    figure,
    show: (quantity, si) => `${figure(quantity, si)} ${unit(quantity).label}`,
    toField: (quantity, si) => String(Number(convert(quantity, si).toPrecision(7))),
    toSi: (quantity, typed) => (typed - (unit(quantity).offset ?? 0)) / unit(quantity).factor,
  };
}

const Context = createContext<Units>(unitsOf("metric", () => {}));

export function UnitsProvider({ children }: { children: ReactNode }) {
  const [system, setSystem] = useState<System>(() => (localStorage.getItem("units") === "us" ? "us" : "metric"));
  const value = useMemo(
    () =>
      unitsOf(system, (next) => {
        localStorage.setItem("units", next);
        setSystem(next);
      }),
    [system],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export const useUnits = () => useContext(Context);
