// Days and times of a site, wherever the reader is.
import assert from "node:assert/strict";
import { test } from "node:test";
import { addDays, clock, daysBetween, minutes, minutesSeconds, whenDay } from "../src/time";

test("clock times are the site's", () => {
  assert.equal(clock("2026-06-18T08:10:00Z", "America/New_York"), "04:10");
  assert.equal(clock("2026-06-18T08:10:00Z", "Asia/Kolkata"), "13:40");
  // 8 March 2026: the clock skips from 02:00 to 03:00.
  assert.equal(clock("2026-03-08T06:59:00Z", "America/New_York"), "01:59");
  assert.equal(clock("2026-03-08T07:00:00Z", "America/New_York"), "03:00");
});

test("civil days are counted without clocks", () => {
  assert.equal(addDays("2026-03-07", 2), "2026-03-09");
  assert.equal(addDays("2026-03-01", -1), "2026-02-28");
  assert.equal(daysBetween("2026-10-31", "2026-11-02"), 2);
});

test("days in words", () => {
  assert.equal(whenDay("2026-06-17", "2026-06-18"), "yesterday");
  assert.equal(whenDay("2026-06-18", "2026-06-18"), "today");
  assert.equal(whenDay("2026-06-19", "2026-06-18"), "tomorrow");
  assert.equal(whenDay("2026-06-24", "2026-06-18"), "Wednesday");
  assert.equal(whenDay("2026-06-25", "2026-06-18"), "Thu 25 June");
});

test("times that run", () => {
  assert.equal(minutes(2280), "38 min");
  assert.equal(minutes(2310), "38:30 min");
  assert.equal(minutesSeconds(-65), "−1:05");
});
