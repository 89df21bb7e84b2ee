// A test under way, kept on this phone until the server has it. It survives a reload, and is sent once.
import { useState } from "react";
import type { Units } from "../../units";
import type { CanTest } from "./queries";

export type Draft = {
  /** Of this form, so that a later program knows what it reads. */
  version: typeof VERSION;
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

/** What is kept of a test: one under way, or a text that is none that we can go on with. */
export type Kept = { draft: Draft } | { broken: string } | undefined;

export const VERSION = 1;

const name = (site: string, zone: number) => `fresh-meadow-can-test-${site}-${zone}`;

const isNumber = (x: unknown) => typeof x === "number" && Number.isFinite(x);
const isPoint = (x: unknown) => {
  const point = x as { x_m?: unknown; y_m?: unknown } | null;
  return isNumber(point?.x_m) && isNumber(point?.y_m);
};
const isCan = (x: unknown) => {
  const can = x as Partial<CanTest["cans"][number]> | null;
  return (
    isNumber(can?.number) &&
    isPoint(can?.place) &&
    typeof can?.fate === "string" &&
    (can.reading == null || isNumber(can.reading))
  );
};

/** A test under way, if that is what a kept text is; one from before drafts had a version is taken up. */
export function draftOf(text: string): Draft | undefined {
  let kept: Partial<Draft> | null;
  try {
    kept = JSON.parse(text) as Partial<Draft> | null;
  } catch {
    return undefined;
  }
  if (typeof kept !== "object" || kept === null || (kept.version ?? VERSION) !== VERSION) return undefined;
  const { test } = kept;
  const holds =
    typeof kept.key === "string" &&
    isNumber(kept.next) &&
    typeof kept.finished === "boolean" &&
    typeof test === "object" &&
    test !== null &&
    isNumber(test.minutes) &&
    typeof test.container?.kind === "string" &&
    Array.isArray(test.corners) &&
    test.corners.every(isPoint) &&
    (test.heads ?? []).every(isPoint) &&
    (test.idle_heads ?? []).every(isNumber) &&
    Array.isArray(test.cans) &&
    test.cans.every(isCan);
  return holds ? { ...(kept as Draft), version: VERSION } : undefined;
}

export function readKept(site: string, zone: number): Kept {
  const text = localStorage.getItem(name(site, zone));
  if (text === null) return undefined;
  const draft = draftOf(text);
  return draft ? { draft } : { broken: text };
}

/** Forgets a test that the server has. */
export const forgetDraft = (site: string, zone: number) => localStorage.removeItem(name(site, zone));

export function useDraft(site: string, zone: number) {
  const [kept, setKept] = useState(() => readKept(site, zone));
  const keep = (next: Draft | undefined) => {
    if (next) localStorage.setItem(name(site, zone), JSON.stringify(next));
    else forgetDraft(site, zone);
    setKept(next && { draft: next });
  };
  return [kept, keep] as const;
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
