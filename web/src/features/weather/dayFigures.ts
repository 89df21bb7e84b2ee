// What people type of a day's weather.
import type { Quantity } from "../../quantities";

export const DAY_FIGURES = [
  { key: "tmin_c", label: "Low", quantity: "temperature" },
  { key: "tmax_c", label: "High", quantity: "temperature" },
  { key: "rain_mm", label: "Rain", quantity: "depth" },
] as const satisfies { key: string; label: string; quantity: Quantity }[];
