// The reader's choice of units, kept on this device.
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import { type Shown, type System, shownIn } from "./quantities";

export type { Quantity, System } from "./quantities";

export type Units = Shown & { setSystem: (system: System) => void };

const Context = createContext<Units>({ ...shownIn("metric"), setSystem: () => {} });

export function UnitsProvider({ children }: { children: ReactNode }) {
  const [system, setSystem] = useState<System>(() => (localStorage.getItem("units") === "us" ? "us" : "metric"));
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
