// A test under way, kept on this phone until the server has it. It survives a reload, and is sent once.
import { useState } from "react";
import type { Units } from "../../units";
import type { CanTest } from "./queries";

export type Draft = {
  /** Sent with the test: the server keeps it once however often it comes. */
  key: string;
  test: CanTest;
  /** Number of the can to be read. */
  next: number;
  /** Done, and to be sent. */
  finished: boolean;
};

const name = (site: string, zone: number) => `fresh-meadow-can-test-${site}-${zone}`;

export function readDraft(site: string, zone: number): Draft | undefined {
  const kept = localStorage.getItem(name(site, zone));
  return kept ? (JSON.parse(kept) as Draft) : undefined;
}

/** Forgets a test that the server has. */
export const forgetDraft = (site: string, zone: number) => localStorage.removeItem(name(site, zone));

export function useDraft(site: string, zone: number) {
  const [draft, setDraft] = useState(() => readDraft(site, zone));
  const keep = (next: Draft | undefined) => {
    if (next) localStorage.setItem(name(site, zone), JSON.stringify(next));
    else forgetDraft(site, zone);
    setDraft(next);
  };
  return [draft, keep] as const;
}

/** What a can said, as it was typed: mL, or a depth in the reader's units. */
export const readingText = (test: CanTest, reading: number | null | undefined, units: Units) =>
  reading == null ? "" : test.container.kind === "volume" ? String(reading) : units.toField("depth", reading);

export const readCount = (test: CanTest) => test.cans.filter((c) => c.fate === "read").length;

/** The next can after a number that is still to be read; the first of all if there is none after it. */
export function nextUnread(test: CanTest, after: number): number | undefined {
  const unread = test.cans.filter((c) => c.fate === "unread").map((c) => c.number);
  return unread.find((n) => n > after) ?? unread[0];
}

/** Cans in even rows over a rectangle, half a gap from its edges; snaking, as one walks. */
export function layOut(width: number, length: number, columns: number, rows: number): CanTest["cans"] {
  return Array.from({ length: rows * columns }, (_, i) => {
    const row = Math.floor(i / columns);
    const along = i % columns;
    const column = row % 2 === 0 ? along : columns - 1 - along;
    const round = (x: number) => Math.round(x * 1000) / 1000;
    return {
      number: i + 1,
      place: { x_m: round(((column + 0.5) * width) / columns), y_m: round(((rows - row - 0.5) * length) / rows) },
      fate: "unread" as const,
    };
  });
}

/** Heads at the corners, or also midway along the sides. */
export function headsOf(width: number, length: number, where: string): CanTest["heads"] {
  const xs = where === "sides" ? [0, width / 2, width] : [0, width];
  const ys = where === "sides" ? [0, length / 2, length] : [0, length];
  if (where === "none") return [];
  return ys.flatMap((y) =>
    xs.filter((x) => !(x === width / 2 && y === length / 2 && where === "sides")).map((x) => ({ x_m: x, y_m: y })),
  );
}
