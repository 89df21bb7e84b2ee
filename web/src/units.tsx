// The reader's choice of units, kept on this device.
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import { type Shown, type System, shownIn } from "./quantities";

export type { Quantity, System } from "./quantities";

export type Units = Shown & { setSystem: (system: System) => void };

const Context = createContext<Units>({ ...shownIn("metric"), setSystem: () => {} });

/** Where lawns are measured in feet and inches (CLDR's measurement system "US" and its relatives, from memory). */
const US_REGIONS = ["US", "LR", "MM"];

/** The units that were chosen on this device; else those of its locale. */
function chosen(): System {
  const kept = localStorage.getItem("units");
  if (kept === "us" || kept === "metric") return kept;
  try {
    return US_REGIONS.includes(new Intl.Locale(navigator.language).region ?? "") ? "us" : "metric";
  } catch {
    return "metric";
  }
}

export function UnitsProvider({ children }: { children: ReactNode }) {
  const [system, setSystem] = useState<System>(chosen);
  const value = useMemo(
    () => ({
      ...shownIn(system),
      setSystem: (next: System) => {
        localStorage.setItem("units", next);
        setSystem(next);
      },
    }),
    [system],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export const useUnits = () => useContext(Context);
