// Numbers as people type them. Common practice, no source.
import assert from "node:assert/strict";
import { test } from "node:test";
import { commaOf, print, readNumber, sameUnit } from "../src/numbers";

test("a comma means what it means where the reader lives", () => {
  assert.equal(commaOf("en-US"), "thousands");
  assert.equal(commaOf("de-DE"), "decimal");
});

test("a comma for thousands is read unasked, one that cannot be is asked about", () => {
  const read = (text: string) => readNumber(text, "thousands");
  assert.deepEqual(read("8,181"), { value: 8181 });
  assert.deepEqual(read("1,200"), { value: 1200 });
  assert.deepEqual(read("8,000"), { value: 8000 });
  assert.deepEqual(read("1,234,567.5"), { value: 1234567.5 });
  assert.deepEqual(read("8.181"), { value: 8.181 });
  assert.deepEqual(read("8,18"), { value: 8.18, also: 818 });
  assert.deepEqual(read("0,5"), { value: 0.5 });
});

test("a decimal comma is read, and asked about where thousands would look the same", () => {
  const read = (text: string) => readNumber(text, "decimal");
  assert.deepEqual(read("8,18"), { value: 8.18 });
  assert.deepEqual(read("8.181,5"), { value: 8181.5 });
  assert.deepEqual(read("8,181"), { value: 8.181, also: 8181 });
  assert.deepEqual(read("8.5"), { value: 8.5 });
});

test("fractions, signs, spaces and units", () => {
  const read = (text: string) => readNumber(text, "thousands");
  assert.deepEqual(read("½"), { value: 0.5 });
  assert.deepEqual(read("1 1/2"), { value: 1.5 });
  assert.deepEqual(read("1½ in"), { value: 1.5, unit: "in" });
  assert.deepEqual(read("12 mm"), { value: 12, unit: "mm" });
  assert.deepEqual(read("12mm"), { value: 12, unit: "mm" });
  assert.deepEqual(read("8 181"), { value: 8181 });
  assert.deepEqual(read("−3.5"), { value: -3.5 });
  assert.deepEqual(read("5."), { value: 5 });
  for (const text of ["", "abc", "1,2,3", "1/0", "--3", "1.2.3", "3-4"]) {
    const found = read(text);
    assert.ok(found === undefined || found.unit !== undefined, `${text}: ${JSON.stringify(found)}`);
  }
});

test("a unit behind a number is that of the field, however it is spelled", () => {
  assert.ok(sameUnit("sq ft", "ft²"));
  assert.ok(sameUnit("MM", "mm"));
  assert.ok(sameUnit('"', "in"));
  assert.ok(!sameUnit("cm", "mm"));
  assert.ok(!sameUnit("mm", undefined));
});

test("limits are printed with thousands and without noise", () => {
  assert.equal(print(26.41721), "26.42");
  assert.equal(print(2641720524.4), "2,641,720,524");
  assert.equal(print(-3), "−3");
  assert.equal(print(0), "0");
});
