// Soil tests under way, kept on this device until the server has them: they survive a reload, and are sent once.
import { useCallback, useState } from "react";
import { newKey } from "../../key";
import type { SoilTest } from "./queries";
import type { Method } from "./words";

/** A test under way. What is typed of it is kept as it is stored, in SI. */
export type Draft = {
  /** Sent with the test: the server keeps it once however often it comes. */
  key: string;
  /** The site's day on which it was done, once it is. */
  date?: string;
  /** Done, and to be sent. */
  done?: SoilTest;
  /** What is noted so far, by the test's own names. */
  noted: Record<string, unknown>;
};

const PREFIX = "fresh-meadow-soil-";
const name = (site: string, zone: number, method: Method) => `${PREFIX}${site}-${zone}-${method}`;

const begun = (): Draft => ({ key: newKey(), noted: {} });

function read(text: string | null): Draft | undefined {
  try {
    const kept = JSON.parse(text ?? "null") as Partial<Draft> | null;
    const holds = typeof kept?.key === "string" && typeof kept.noted === "object" && kept.noted !== null;
    return holds ? (kept as Draft) : undefined;
  } catch {
    return undefined;
  }
}

export function useDraft(site: string, zone: number, method: Method) {
  const key = name(site, zone, method);
  const [draft, setDraft] = useState(() => read(localStorage.getItem(key)) ?? begun());
  const keep = useCallback(
    (change: (draft: Draft) => Draft) =>
      setDraft((before) => {
        const after = change(before);
        localStorage.setItem(key, JSON.stringify(after));
        return after;
      }),
    [key],
  );
  const forget = useCallback(() => localStorage.removeItem(key), [key]);
  return { draft, keep, forget, again: () => setDraft(begun()) };
}

/** A jar of which not all has been read. */
export type Jar = { zone: number; shaken: string; next: "sand_to_mm" | "silt_to_mm" | "clay_to_mm"; due: string };

/** When each layer is read after the jar was shaken, minutes. */
export const SETTLES = { sand_to_mm: 1, silt_to_mm: 120, clay_to_mm: 1440 } as const;

/** The next reading of a jar that was shaken at an instant of the site's clock; undefined once all are read. */
export function nextOf(noted: Record<string, unknown>): Omit<Jar, "zone"> | undefined {
  const shaken = noted.shaken;
  if (typeof shaken !== "string") return undefined;
  const next = (Object.keys(SETTLES) as Jar["next"][]).find((layer) => typeof noted[layer] !== "number");
  if (!next) return undefined;
  const due = new Date(new Date(shaken).getTime() + SETTLES[next] * 60_000).toISOString();
  return { shaken, next, due };
}

/** Jars of a site that stand and settle on this device's record. */
export function jars(site: string): Jar[] {
  return Object.keys(localStorage).flatMap((key) => {
    const at = /^fresh-meadow-soil-(\d+)-(\d+)-jar$/.exec(key);
    if (!at || at[1] !== site) return [];
    const next = nextOf(read(localStorage.getItem(key))?.noted ?? {});
    return next ? [{ zone: Number(at[2]), ...next }] : [];
  });
}
