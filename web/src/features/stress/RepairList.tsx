// What is dead and open: what closes each patch, by when, and the seed for all of it.
import { useUnits } from "../../units";
import { grassName } from "../reasons/words";
import type { RecoveryView } from "./queries";
import classes from "./Recovery.module.css";
import { closingWords, sowWords, workWords } from "./recoveryWords";
import stress from "./Stress.module.css";

export function RepairList({ view }: { view: RecoveryView }) {
  const units = useUnits();
  const rows = view.zones.flatMap((zone) =>
    zone.patches.flatMap((patch) => (patch.repair ? [{ zone, patch, repair: patch.repair }] : [])),
  );
  if (rows.length === 0) return null;
  const seed = view.seed.filter((s) => s.kg > 0);
  const area = rows.reduce((sum, { patch }) => sum + patch.area_m2, 0);
  const work = rows.reduce((sum, { repair }) => sum + repair.work_min, 0);
  const autumns = new Set(rows.flatMap(({ zone }) => (zone.sow_by?.sow_by === "day" ? [zone.sow_by.autumns] : [])));
  return (
    <section aria-label="Repair list">
      <h2>Repair list</h2>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
      <section className={stress.scroll} tabIndex={0} aria-label="Patches to repair">
        <table className={`${stress.table} ${classes.table}`}>
          <thead>
            <tr>
              <th scope="col">Patch</th>
              <th scope="col">Area</th>
              <th scope="col">What closes it</th>
              <th scope="col">By when</th>
              <th scope="col">Work</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(({ zone, patch, repair }) => (
              <tr key={patch.id}>
                <th scope="row">
                  {zone.name}, {patch.name}
                </th>
                <td className={classes.figure}>{units.show("patch", patch.area_m2)}</td>
                <td>{closingWords(repair, patch.area_m2, units)}</td>
                <td>
                  {sowWords(patch, zone.sow_by)}
                  {patch.is_early ? "; judged early: look again first" : ""}
                </td>
                <td className={classes.figure}>{repair.work_min > 0 ? workWords(repair.work_min) : ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <p>
        <strong>
          Together {units.show("patch", area)}
          {seed.length > 0 &&
            `; seed: ${seed.map((s) => `${units.show("seed", s.kg)} of ${grassName(s.grass)}`).join(", ")}`}
          {work > 0 && `; about ${workWords(work)} of work`}.
        </strong>{" "}
        Loosen the soil, sow, press the seed in and keep it moist. We assume work by hand,{" "}
        {units.system === "us" ? "half a minute a square foot" : "five minutes a square metre"}.
        {autumns.size > 0 &&
          ` Last days of sowing leave seed time to be mown once, and 45 days, before the first hard frost of ${[...autumns].join(" or ")} past ${Math.max(...autumns) === 1 ? "autumn" : "autumns"} on record.`}
      </p>
    </section>
  );
}
