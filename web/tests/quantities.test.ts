// Units both ways, against exact definitions (NIST SP 811, appendix B: inch, foot, gallon, psi, from memory).
import assert from "node:assert/strict";
import { test } from "node:test";
import { shownIn } from "../src/quantities";

const metric = shownIn("metric");
const us = shownIn("us");

test("figures in the reader's units", () => {
  assert.equal(metric.show("depth", 12.34), "12.3 mm");
  assert.equal(us.show("depth", 25.4), "1.00 in");
  assert.equal(us.show("temperature", 0), "32 °F");
  assert.equal(metric.figure("depth", -0.04), "0.0", "no minus before nothing");
  assert.equal(metric.figure("depth", -3.1), "−3.1");
});

test("a typed figure comes back as it was typed", () => {
  for (const shown of [metric, us]) {
    for (const quantity of ["depth", "rate", "area", "temperature", "volume", "root_depth", "flow"] as const) {
      for (const typed of [0.3, 1, 7.25, 40, 123.4]) {
        const back = Number(shown.toField(quantity, shown.toSi(quantity, typed)));
        assert.ok(Math.abs(back - typed) < 1e-6 * typed, `${quantity}: ${typed} came back as ${back}`);
      }
    }
  }
  assert.ok(Math.abs(us.toSi("depth", 1) - 25.4) < 1e-9);
  assert.ok(Math.abs(us.toSi("pressure", 1) - 6.894757) < 1e-6);
});

test("a figure typed in other units goes into a field without noise", () => {
  assert.equal(us.inField("area", 620), "6674");
  assert.equal(us.inField("root_depth", 150), "5.906");
  assert.equal(us.inField("depth", 3.175), "0.125");
  assert.equal(us.inField("area", 4200), "45208");
  assert.equal(metric.inField("temperature", -2.1111111), "-2.111");
  assert.equal(metric.inField("area", 2345.6), "2345.6");
});

test("an account adds up as it is shown", () => {
  for (const shown of [metric, us]) {
    for (let i = 0; i < 200; i++) {
      const parts = Array.from({ length: 5 }, (_, k) => Math.sin(i * 7 + k * 3) * 20);
      const sum = parts.reduce((a, b) => a + b, 0);
      const texts = shown.account("depth", parts, sum).map((t) => Number(t.replace("−", "-").replaceAll(",", "")));
      const total = texts.pop() ?? 0;
      const added = texts.reduce((a, b) => a + b, 0);
      assert.ok(Math.abs(added - total) < 1e-9, `${texts} against ${total}`);
    }
  }
});
