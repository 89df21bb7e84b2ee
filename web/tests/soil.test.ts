import assert from "node:assert/strict";
import { test } from "node:test";
import { nextOf } from "../src/features/soil/kept";
import { seenWords } from "../src/features/soil/words";
import { shownIn } from "../src/quantities";

test("a jar asks for its layers one after another, each when it has settled", () => {
  const shaken = "2026-06-18T11:30:00.000Z";
  assert.equal(nextOf({}), undefined);
  assert.deepEqual(nextOf({ shaken }), { shaken, next: "sand_to_mm", due: "2026-06-18T11:31:00.000Z" });
  assert.equal(nextOf({ shaken, sand_to_mm: 40 })?.due, "2026-06-18T13:30:00.000Z");
  assert.equal(nextOf({ shaken, sand_to_mm: 40, silt_to_mm: 70 })?.due, "2026-06-19T11:30:00.000Z");
  assert.equal(nextOf({ shaken, sand_to_mm: 40, silt_to_mm: 70, clay_to_mm: 100 }), undefined);
});

test("what was seen is said in the reader’s units", () => {
  const metric = shownIn("metric");
  assert.equal(
    seenWords({ seen: "screwdriver", depth_mm: 76.2, stopped: "dry" }, metric),
    "screwdriver 7.6 cm, dry soil stopped it",
  );
  assert.equal(seenWords({ seen: "thatch", mm: 12.7 }, shownIn("us")), "thatch of 0.50 in");
  assert.equal(seenWords({ seen: "moisture", scale: "percent", reading: 27 }, metric), "probe 27 %");
  assert.equal(
    seenWords({ seen: "moisture", scale: "own", reading: 6, at_field_capacity: 9, at_wilting: 1 }, metric),
    "probe 6",
  );
});
