// A watering under way, and what the hose gives: kept on this phone.
import { useState } from "react";
import type { Schemas } from "../../api";

/** A watering under way. */
export type Timing = {
  zone: number;
  how: Schemas["How"];
  begun: number;
  key: string;
  watered?: Schemas["Watered"];
};

const timingKey = (site: string) => `fresh-meadow-timing-${site}`;
const flowKey = (site: string) => `fresh-meadow-hose-${site}`;
const reachedKey = (site: string, zone: number | undefined) => `fresh-meadow-hose-${site}-${zone}`;

/** What was kept, if it is still what this version keeps. */
function read(key: string): Timing | undefined {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(key) ?? "null");
    if (typeof kept !== "object" || kept === null) return undefined;
    const { zone, how, begun, key: id } = kept as Partial<Timing>;
    const holds = typeof zone === "number" && (how === "hose" || how === "hand") && typeof begun === "number";
    return holds && typeof id === "string" ? (kept as Timing) : undefined;
  } catch {
    return undefined;
  }
}

export function useTiming(site: string) {
  const [timing, setTiming] = useState(() => read(timingKey(site)));
  const keep = (next: Timing | undefined) => {
    if (next) localStorage.setItem(timingKey(site), JSON.stringify(next));
    else localStorage.removeItem(timingKey(site));
    setTiming(next);
  };
  return [timing, keep] as const;
}

const number = (key: string): number | undefined => {
  const kept = Number(localStorage.getItem(key) ?? "");
  return kept > 0 ? kept : undefined;
};

/** What the hose of this place gave last, L/min, and the area that it reached in a zone, m². */
export function lastHose(site: string, zone: number | undefined) {
  return { flow: number(flowKey(site)), reached: number(reachedKey(site, zone)) };
}

/** Keeps what a hose gave and reached. */
export function keepHose(site: string, zone: number, hose: { flow_l_min: number; reached_m2: number }) {
  localStorage.setItem(flowKey(site), String(hose.flow_l_min));
  localStorage.setItem(reachedKey(site, zone), String(hose.reached_m2));
}
