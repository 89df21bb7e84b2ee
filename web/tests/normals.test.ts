import assert from "node:assert/strict";
import { test } from "node:test";
import { tableOf } from "../src/features/weather/normals";

const monthsOf = (text: string) => tableOf(text)?.months;

const twelve = (row: string) => Array.from({ length: 12 }, () => row).join("\n");

test("twelve rows of four figures, however they are parted and named", () => {
  const months = Array.from({ length: 12 }, () => [-8, 6.5, 12, 4]);
  for (const row of ["-8 6.5 12 4", "-8\t6.5\t12\t4", "−8; 6,5; 12; 4", "-8, 6.5, 12, 4", "Jan -8 6.5 12 4"])
    assert.deepEqual(monthsOf(twelve(row)), months, row);
  assert.deepEqual(monthsOf(`Month\tLow\tHigh\tRain\tWet\n${twelve("Jan\t-8\t6.5\t12\t4")}\n\n`), months);
});

test("four rows of twelve months", () => {
  const row = (x: number) => Array.from({ length: 12 }, (_, m) => x + m).join(" ");
  const months = monthsOf([row(0), row(10), row(20), row(30)].join("\n"));
  assert.deepEqual(months?.[0], [0, 10, 20, 30]);
  assert.deepEqual(months?.[11], [11, 21, 31, 41]);
  assert.deepEqual(monthsOf(`Low ${row(0)}\nHigh ${row(10)}\nRain ${row(20)}\nWet ${row(30)}`), months);
});

test("what is neither is nothing", () => {
  for (const text of ["", "1 2 3", twelve("1 2 3"), twelve("a b c d"), twelve("1 2 x 4")])
    assert.equal(monthsOf(text), undefined, text);
});

test("a table of an atlas is read by its labels, in its own units, without records and the year", () => {
  const row = (x: number, f: (m: number) => number) =>
    `${Array.from({ length: 12 }, (_, m) => f(m).toFixed(1)).join("\t")}\t${x}`;
  const table = [
    "Climate of Juniper Meadow",
    `Record high °F (°C)\t${row(99, (m) => 70 + m)}`,
    `Mean maximum °F (°C)\t${row(99, (m) => 65 + m)}`,
    `Mean daily maximum °F (°C)\t${Array.from({ length: 12 }, (_, m) => `${(44.6 + m).toFixed(1)} (7.0)`).join("\t")}\t50 (10)`,
    `Mean daily minimum °F (°C)\t${row(40, (m) => 30 + m)}`,
    `Average precipitation inches (mm)\t${row(40, (m) => 3 + m / 10)}`,
    `Average precipitation days (≥ 0.01 in)\t${row(110, (m) => 9 + (m % 3))}`,
  ].join("\n");
  const found = tableOf(table);
  assert.equal(found?.temperature, "f");
  assert.equal(found?.rain, "in");
  assert.deepEqual(found?.months[0], [30, 44.6, 3, 9]);
  assert.deepEqual(found?.months[11], [41, 55.6, 4.1, 11]);
});

test("highs before lows are put in order", () => {
  const row = (x: number) => Array.from({ length: 12 }, (_, m) => x + m).join(" ");
  assert.deepEqual(monthsOf([row(10), row(0), row(20), row(30)].join("\n"))?.[0], [0, 10, 20, 30]);
  assert.deepEqual(monthsOf(twelve("6.5 -8 12 4"))?.[0], [-8, 6.5, 12, 4]);
  assert.deepEqual(
    monthsOf(`Month\tHigh\tLow\tWet days\tRain\n${twelve("Jan\t6.5\t-8\t4\t12")}`)?.[0],
    [-8, 6.5, 12, 4],
  );
});
