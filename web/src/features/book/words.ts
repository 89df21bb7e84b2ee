// What meters and their figures are called.
import type { Schemas } from "../../api";
import type { Meter } from "./queries";

type Unit = Schemas["MeterUnit"];

export const METER_UNITS: { value: Unit; label: string }[] = [
  { value: "m3", label: "m³" },
  { value: "l", label: "L" },
  { value: "ft3", label: "ft³" },
  { value: "ccf", label: "CCF (100 ft³)" },
  { value: "gal", label: "gal" },
  { value: "kgal", label: "kgal (1000 gal)" },
];

const unitName = (unit: Unit) => METER_UNITS.find((u) => u.value === unit)?.label ?? unit;

/** What one count of a meter stands for: `m³`, `10 gal`. */
export const countWords = (meter: Meter): string =>
  meter.multiplier && meter.multiplier !== 1 ? `× ${meter.multiplier} ${unitName(meter.unit)}` : unitName(meter.unit);

/** A figure of a meter with the digits that it shows. */
export const registerWords = (meter: Meter, register: number): string =>
  register.toFixed(meter.decimals ?? 0).padStart(meter.digits + (meter.decimals ? meter.decimals + 1 : 0), "0");
