// What each zone took, gave back, and cost.
import { amount } from "../../money";
import { counted } from "../../plural";
import { useUnits } from "../../units";
import classes from "./Book.module.css";
import type { Book } from "./queries";

export function ZoneTable({ book, currency }: { book: Book; currency: string | null | undefined }) {
  const units = useUnits();
  const volume = units.label("volume");
  const depth = units.label("depth");
  const priced = book.total.cost != null;
  const byHand = book.zones.some((z) => z.visits > 0);
  const lines = [...book.zones.filter((z) => z.sums.run_l > 0 || z.sums.planned_l > 0 || z.sums.etc_mm > 0)];
  const head = (text: string) => (
    <th scope="col" className={classes.number}>
      {text}
    </th>
  );
  const figures = (sums: Book["total"]) => (
    <>
      <td className={classes.number}>{units.figure("volume", sums.planned_l)}</td>
      <td className={classes.number}>{units.figure("volume", sums.run_l)}</td>
      <td className={classes.number}>{units.figure("depth", sums.net_mm)}</td>
      <td className={classes.number}>{units.figure("depth", sums.effective_rain_mm)}</td>
      <td className={classes.number}>{units.figure("depth", sums.etc_mm)}</td>
      <td className={classes.number}>{units.figure("depth", sums.runoff_mm)}</td>
      <td className={classes.number}>{units.figure("depth", sums.drainage_mm)}</td>
    </>
  );
  return (
    <section>
      <h2>Zone by zone</h2>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
      <section className={classes.scroll} tabIndex={0} aria-label="Zone by zone">
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">Zone</th>
              {head(`Planned, ${volume}`)}
              {head(`Ran, ${volume}`)}
              {head(`Irrigation that entered, ${depth}`)}
              {head(`Rain that entered, ${depth}`)}
              {head(`The turf needed, ${depth}`)}
              {head(`Ran off, ${depth}`)}
              {head(`Below the roots, ${depth}`)}
              {byHand && head("By hand")}
              {priced && head("Cost")}
            </tr>
          </thead>
          <tbody>
            {lines.map((z) => (
              <tr key={z.zone}>
                <th scope="row">
                  {z.name}
                  {z.unmeasured > 0 && (
                    <span className="quiet">
                      {" "}
                      {z.unmeasured === 1 ? "a watering" : `${z.unmeasured} waterings`} by hose not measured
                    </span>
                  )}
                </th>
                {figures(z.sums)}
                {byHand && (
                  <td className={classes.number}>
                    {z.visits > 0 ? `${counted(z.visits, "visit")}, ${Math.round(z.by_hand_s / 60)} min` : ""}
                  </td>
                )}
                {priced && <td className={classes.number}>{amount(z.sums.cost ?? 0, currency)}</td>}
              </tr>
            ))}
            <tr className={classes.total}>
              <th scope="row">The lawn</th>
              {figures(book.total)}
              {byHand && (
                <td className={classes.number}>
                  {counted(
                    book.zones.reduce((sum, z) => sum + z.visits, 0),
                    "visit",
                  )}
                  , {Math.round(book.zones.reduce((sum, z) => sum + z.by_hand_s, 0) / 60)} min
                </td>
              )}
              {priced && <td className={classes.number}>{amount(book.total.cost ?? 0, currency)}</td>}
            </tr>
          </tbody>
        </table>
      </section>
    </section>
  );
}
