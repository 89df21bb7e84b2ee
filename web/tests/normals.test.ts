import assert from "node:assert/strict";
import { test } from "node:test";
import { monthsOf } from "../src/features/weather/normals";

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
