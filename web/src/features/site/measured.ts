// What tests measured of a zone, as plans use it.
import type { ZoneView } from "../../api";
import type { TestView } from "../sprinklers/queries";

type Figure = { value: number; date: string };
export type MeasuredFigures = { rate?: Figure; evenness?: Figure };

/** Whether a typed figure was typed after a test: then it counts, not the test. */
const isNewer = (typed: { source: { kind: string; date?: string } } | null | undefined, than: string) =>
  typed?.source.date !== undefined && typed.source.date > than;

export function measuredOf(zone: ZoneView, tests: TestView[]): MeasuredFigures {
  const counts = tests.find((t) => t.zone === zone.id && t.counts);
  const even = tests.find((t) => t.zone === zone.id && t.counts_for_evenness);
  const found: MeasuredFigures = {};
  if (counts && !isNewer(zone.zone.rate_mm_h, counts.date))
    found.rate = { value: counts.result.rate_mm_h.value, date: counts.date };
  if (even?.result.evenness_du_lq && !isNewer(zone.zone.evenness_du_lq, even.date))
    found.evenness = { value: even.result.evenness_du_lq.value, date: even.date };
  return found;
}
