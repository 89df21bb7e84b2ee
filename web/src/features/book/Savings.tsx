// What would save water in a year, each with what it is worked out from.
import { Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { amount } from "../../money";
import type { Shown } from "../../quantities";
import { useUnits } from "../../units";
import { SCHOOLS } from "../schools/words";
import { Failed, Loading } from "../shell/States";
import classes from "./Book.module.css";
import { type Saving, savingsQuery } from "./queries";

const percent = (share: number) => `${Math.round(100 * share)} %`;

/** What to do, and what that is worked out from. */
function savingWords(s: Saving, units: Shown): { title: string; detail: string } {
  const of = units.show("volume", s.of_l);
  const zone = s.zone_name ?? "";
  switch (s.what.kind) {
    case "leak":
      return {
        title: "Repair the leak",
        detail: `${units.show("bucket", s.what.litres_an_hour)} an hour, day and night, as long as the supply is on.`,
      };
    case "head":
      return {
        title: `${zone}: replace the broken head`,
        detail: `It takes ${s.what.times.toFixed(2)} times what it used to; ${of} should have run in the last twelve months.`,
      };
    case "evenness":
      return {
        title: `${zone}: repair, level and aim its sprinklers`,
        detail: `Their evenness was measured as ${percent(s.what.du_lq)}; very good ones have ${percent(s.what.reach)}, and would keep the driest quarter green with ${percent(s.litres_a_year / s.of_l)} less than the ${of} of the last twelve months.`,
      };
    case "school": {
      const own = SCHOOLS[s.what.own.kind].name;
      return {
        title: `${zone}: water by the balance instead of “${own}”`,
        detail: `On this year’s weather “${own}” takes ${of}, with ${s.what.own_dry_days} days too dry; the balance has ${s.what.dry_days}.`,
      };
    }
  }
}

const keyOf = (s: Saving) => `${s.what.kind}-${s.zone ?? ""}`;

/** `most`: so many of them; without it all. */
export function Savings({
  site,
  currency,
  most,
}: {
  site: string;
  currency: string | null | undefined;
  most?: number;
}) {
  const units = useUnits();
  const savings = useQuery(savingsQuery(site));
  if (savings.isPending) return <Loading what="what would save water" />;
  if (savings.error) return <Failed message={savings.error.message} retry={() => savings.refetch()} />;
  if (savings.data.length === 0) {
    return (
      <Text>Nothing that is known: no leak, no broken head, no uneven zone that was tested, no costlier school.</Text>
    );
  }
  return (
    <>
      <table className={`${classes.table} ${classes.savings}`}>
        <thead>
          <tr>
            <th scope="col">What to do</th>
            <th scope="col" className={classes.number}>
              Saved a year
            </th>
          </tr>
        </thead>
        <tbody>
          {savings.data.slice(0, most).map((s) => {
            const { title, detail } = savingWords(s, units);
            return (
              <tr key={keyOf(s)}>
                <th scope="row" className={classes.wide}>
                  <strong>{title}</strong>
                  <br />
                  <span className="quiet">{detail}</span>
                </th>
                <td className={classes.number}>
                  {units.show("volume", s.litres_a_year)}
                  {s.money_a_year == null ? (
                    ""
                  ) : (
                    <>
                      <br />
                      {amount(s.money_a_year, currency)}
                    </>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="quiet">
        Each by itself: two that touch the same zone do not add up. Money is told in the price of the next water.
      </p>
    </>
  );
}
