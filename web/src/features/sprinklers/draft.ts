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
  /** It was sent, and may have arrived: what is changed from now on is a test of its own. */
  sent?: boolean;
};

const name = (site: string, zone: number) => `fresh-meadow-can-test-${site}-${zone}`;

export function readDraft(site: string, zone: number): Draft | undefined {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(name(site, zone)) ?? "null");
    const test = (kept as Partial<Draft> | null)?.test;
    return test && Array.isArray(test.cans) && Array.isArray(test.corners) ? (kept as Draft) : undefined;
  } catch {
    return undefined;
  }
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

/** Whether the depth is read off the can, rather than a volume. */
export const readsDepth = (test: CanTest) => test.container.kind === "straight";

/** What a can said, as it was typed: mL, or a depth in the reader's units. */
export const readingText = (test: CanTest, reading: number | null | undefined, units: Units) =>
  reading == null ? "" : readsDepth(test) ? units.toField("depth", reading) : String(reading);

export const readCount = (test: CanTest) => test.cans.filter((c) => c.fate === "read").length;

/** The next can after a number that is still to be read; the first of all if there is none after it. */
export function nextUnread(test: CanTest, after: number): number | undefined {
  const unread = test.cans.filter((c) => c.fate === "unread").map((c) => c.number);
  return unread.find((n) => n > after) ?? unread[0];
}
