// Verdicts and lines in words: each kind has its own, in the reader's units.
import assert from "node:assert/strict";
import { test } from "node:test";
import type { Cell, LedgerLine, Verdict, Warning } from "../src/api";
import { bearings, sentence, staysDry, warnings } from "../src/features/reasons/words";
import { shownIn } from "../src/quantities";

const TODAY = "2026-06-18";
const metric = shownIn("metric");

const cell = (verdict: Verdict, ledger: LedgerLine[] = []): Cell => ({
  date: TODAY,
  state: "hold",
  depletion_start_mm: 12.3,
  depletion_mm: 17,
  raw_mm: 20.8,
  eta_mm: 4.7,
  ks: 1,
  irrigation_net_mm: 0,
  later: [],
  verdict,
  ledger,
  warnings: [],
});

const said = (verdict: Verdict, units = metric) => sentence(cell(verdict), verdict, TODAY, units);

test("a verdict says how dry it is, and the one thing that decided", () => {
  assert.equal(
    said({ verdict: "due", next: "2026-06-20", passes_on: "2026-06-19", leaves_room: false }),
    "12.3 of 20.8 mm used; without water too dry tomorrow, and the next watering day is Saturday.",
  );
  assert.equal(
    said({ verdict: "due", next: TODAY, passes_on: null, leaves_room: true }),
    "12.3 of 20.8 mm used; water is due, and the next watering hours are the same day; room is left for rain.",
  );
  assert.equal(
    said({ verdict: "skipped", skip: { because: "frost", tmin_c: 1 } }),
    "12.3 of 20.8 mm used, but it may freeze: 1 °C expected.",
  );
  assert.equal(
    said({ verdict: "no_room", short_mm: 3, more_s: 601 }),
    "12.3 of 20.8 mm used; other zones fill the window; 11 min more would make it fit.",
  );
  assert.equal(said({ verdict: "switched_off" }), "Switched off.");
});

test("what is asked for some hours is said with its time, and what it is short of with the reason", () => {
  assert.equal(
    said({ verdict: "waters_in", by: "2026-06-19T10:00:00" }),
    "12.3 of 20.8 mm used; what was put down is watered in, by tomorrow at 10:00.",
  );
  const zone = (because: Extract<Warning, { warning: "not_watered_in" }>["because"]) => ({
    cells: [
      {
        ...cell({ verdict: "switched_off" }),
        warnings: [{ warning: "not_watered_in" as const, by: "2026-06-20T08:30:00", short_mm: 6, because }],
      },
    ],
  });
  assert.deepEqual(warnings(zone({ because: "no_hours" }) as never, TODAY, metric), [
    "Not watered in by Saturday at 08:30: 6.0 mm short, because there are no allowed hours before; ask whether it may be done by hand.",
  ]);
  assert.deepEqual(warnings(zone({ because: "forbidden", skip: { because: "kept_dry" } }) as never, TODAY, metric), [
    "Not watered in by Saturday at 08:30: 6.0 mm short, because it must stay dry until then: one of the two entries has to go.",
  ]);
});

test("a volume that runs short names the rule, or what the water comes from", () => {
  const short = { short_mm: 3, more_l: 2000 };
  assert.equal(
    said({ verdict: "rationed", rule: "Stage 2", ...short }),
    "12.3 of 20.8 mm used; “Stage 2” leaves it nothing: 3.0 mm short; 2.0 m³ more would keep every zone from harm.",
  );
  assert.equal(
    said({ verdict: "rationed", rule: null, ...short }),
    "12.3 of 20.8 mm used; the tank or well leaves it nothing: 3.0 mm short; 2.0 m³ more would keep every zone from harm.",
  );
});

test("in the reader's units", () => {
  const words = said({ verdict: "not_due", next: "2026-06-20", room_mm: 25.4 }, shownIn("us"));
  assert.equal(words, "0.48 of 0.82 in used; 1.00 in left by the next watering day, Saturday.");
});

test("what bears on a decision is a line each, and no line is said twice", () => {
  const ledger: LedgerLine[] = [
    { line: "depletion", depletion_mm: 12.3, raw_mm: 20.8, taw_mm: 40 },
    { line: "due", next: null, passes_on: null, needed_mm: 4 },
    { line: "window_carries", refill_mm: 12.3, carries_mm: 8 },
    { line: "kept_dry" },
  ];
  assert.deepEqual(bearings(ledger, TODAY, metric), [
    "At least 4.0 mm is needed before the end of the plan.",
    "The window carries 8.0 mm of the 12.3 mm that it should get.",
    "Somebody wants it dry on this day.",
  ]);
});

test("a chance is said only where it is one", () => {
  assert.equal(staysDry(97), undefined);
  assert.equal(staysDry(84.4), 84);
  assert.equal(staysDry(0.2), 1);
});
