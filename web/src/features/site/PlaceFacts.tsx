// Place and hours for those who read only.
import type { SiteView } from "../../api";
import { useUnits } from "../../units";
import classes from "./SitePage.module.css";

export function PlaceFacts({ view }: { view: SiteView }) {
  const units = useUnits();
  const facts: [string, string][] = [
    ["Time zone", view.site.time_zone],
    ["Place", `${view.site.latitude}°, ${view.site.longitude}°, ${units.show("elevation", view.site.elevation_m)} up`],
    ["Flow of the supply", view.supply.flow_l_min ? units.show("flow", view.supply.flow_l_min) : "enough for any zone"],
    ...(view.supply.store
      ? [
          [
            "Tank or well",
            `${units.show("volume", view.supply.store.holds_l)}, ${units.show("flow", view.supply.store.refill_l_min)} run back in`,
          ] as [string, string],
        ]
      : []),
    ...(view.controller.starts
      ? [["Controller", `${view.controller.starts} starts of a programme`] as [string, string]]
      : []),
    ...view.windows.map((w): [string, string] => [
      "Watering allowed",
      `${w.days.map((d) => d.slice(0, 3)).join(", ")}${w.dates && w.dates !== "any" ? `, ${w.dates} dates` : ""}: ${w.from} to ${w.to}`,
    ]),
  ];
  return (
    <table className={classes.table}>
      <tbody>
        {facts.map(([name, value]) => (
          <tr key={name + value}>
            <th scope="row">{name}</th>
            <td>{value}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
