// A test kept on the phone is read only where it is one that can be gone on with.
import assert from "node:assert/strict";
import { test } from "node:test";
import type { Zone } from "../src/api";
import { changedKeys, holdsQuery } from "../src/features/site/Holds";
import { draftOf, nextUnread, VERSION } from "../src/features/sprinklers/draft";

const good = {
  version: VERSION,
  key: "phone-0001",
  next: 2,
  finished: false,
  test: {
    corners: [{ x_m: 0, y_m: 0 }],
    heads: [],
    container: { kind: "straight", deep_mm: 90 },
    minutes: 15,
    cans: [
      { number: 1, place: { x_m: 1, y_m: 1 }, fate: "read", reading: 4 },
      { number: 2, place: { x_m: 2, y_m: 1 }, fate: "unread" },
    ],
  },
};

test("a draft is taken up, also one from before drafts had a version", () => {
  const draft = draftOf(JSON.stringify(good));
  assert.equal(draft?.next, 2);
  const { version: _, ...older } = good;
  assert.equal(draftOf(JSON.stringify(older))?.version, VERSION);
  assert.equal(draft && nextUnread(draft.test, 1), 2);
});

test("what is none is no draft, and nothing throws", () => {
  for (const text of ["", "{", "null", "7", "[]", '{"test":{}}']) assert.equal(draftOf(text), undefined, text);
  const broken: unknown[] = [
    { ...good, version: 2 },
    { ...good, key: 7 },
    { ...good, next: "2" },
    { ...good, test: { ...good.test, container: null } },
    { ...good, test: { ...good.test, minutes: "15" } },
    { ...good, test: { ...good.test, cans: [{ number: 1 }] } },
    { ...good, test: { ...good.test, corners: [null] } },
    { ...good, test: { ...good.test, cans: [{ ...good.test.cans[0], reading: "4" }] } },
  ];
  for (const draft of broken) assert.equal(draftOf(JSON.stringify(draft)), undefined, JSON.stringify(draft));
});

test("from when a change holds: by what it tells of, unless somebody says otherwise", () => {
  const before: Zone = {
    name: "Field",
    grass: "tall_fescue",
    soil: "loam",
    slope_pct: 1,
    area_m2: 400,
    sprinkler: "rotor",
  };
  const after: Zone = { ...before, name: "Renamed", soil: "sand", how_green: "lush" };
  assert.deepEqual(
    changedKeys(before, after).map((c) => c.key),
    ["how_green", "soil"],
  );
  assert.equal(holdsQuery(before, after, {}, "2026-06-18"), "how_green:2026-06-18,soil:always");
  assert.equal(holdsQuery(before, after, { soil: "2026-06-01" }, "2026-06-18"), "how_green:2026-06-18,soil:2026-06-01");
});
