// What a test says, line by line.
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api";
import { amount } from "../../money";
import { useUnits } from "../../units";
import { Term } from "../reasons/Term";
import { siteQuery } from "../site/queries";
import own from "./Sprinklers.module.css";
import { doubtWords, patternWords } from "./words";

type Props = { result: Schemas["TestResult"]; site: string; drawn: boolean };

export function ResultList({ result, site, drawn }: Props) {
  const units = useUnits();
  const currency = useQuery(siteQuery(site)).data?.site.currency;
  const depth = (mm: number) => units.show("depth", mm);
  const soak = depth(13);
  const cost = result.week_cost;
  return (
    <>
      {drawn && (
        <p className={own.legend}>
          Lines: depth caught, {units.label("depth")}. Straw and hatched: drier than the mean; blue: wetter. Triangles:
          heads.
        </p>
      )}
      <ul className={own.lines}>
        {result.evenness_du_lq && (
          <li>
            <Term name="DU">Evenness</Term> {result.evenness_du_lq.value.toFixed(2)} (
            {result.evenness_du_lq.low.toFixed(2)} to {result.evenness_du_lq.high.toFixed(2)})
            {result.cu_pct != null && (
              <>
                , <Term name="CU" /> {Math.round(result.cu_pct)} %
              </>
            )}
            {result.scheduling_coefficient != null && (
              <>
                , <Term name="scheduling coefficient" /> {result.scheduling_coefficient.toFixed(1)}
              </>
            )}
            {result.run_time_multiplier != null ? `, minutes × ${result.run_time_multiplier.toFixed(2)}` : ""}
          </li>
        )}
        <li>
          Rate {units.figure("rate", result.rate_mm_h.low)} to {units.show("rate", result.rate_mm_h.high)}
        </li>
        {result.driest_quarter_of_13_mm != null && result.wettest_of_13_mm != null && (
          <li>
            While the average gets {soak}, the driest quarter gets {depth(result.driest_quarter_of_13_mm)} and the
            wettest can {depth(result.wettest_of_13_mm)}
          </li>
        )}
        {result.minutes_for_13_mm_even != null && (
          <li>
            {result.minutes_for_13_mm != null
              ? `${soak} everywhere takes ${Math.round(result.minutes_for_13_mm)} min; even sprinklers would need ${Math.round(result.minutes_for_13_mm_even)} min`
              : `${soak} on average takes ${Math.round(result.minutes_for_13_mm_even)} min; how evenly it falls, only cans tell`}
          </li>
        )}
        {cost && cost.minutes >= 0.5 && (
          <li>
            This week, which uses {depth(cost.need_mm)}, unevenness costs {Math.round(cost.minutes)} min and{" "}
            {units.show("volume", cost.volume_l)}
            {cost.money != null ? `, ${amount(cost.money, currency)}` : ""}
          </li>
        )}
        {result.patterns.map((p) => {
          const { looks, check } = patternWords(p, units);
          return (
            <li key={looks}>
              <strong>{looks}</strong> {check}
            </li>
          );
        })}
        {result.doubts.map((d) => (
          <li key={d.doubt} className="quiet">
            {doubtWords(d, units)}
          </li>
        ))}
      </ul>
    </>
  );
}
