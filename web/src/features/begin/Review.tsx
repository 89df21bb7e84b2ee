// The answers together, each with a way back to its question.
import { Button } from "@mantine/core";
import type { Catalogue, Schemas, Zone } from "../../api";
import { useUnits } from "../../units";
import classes from "./Begin.module.css";
import { EXPOSURES, FALLS, SOAKED } from "./words";

type Props = {
  draft: Schemas["ZoneDraft"];
  zone: Zone | undefined;
  catalogue: Catalogue;
  onChange: (step: number) => void;
};

export function Review({ draft, zone, catalogue, onChange }: Props) {
  const units = useUnits();
  const open = (what: string) => `not known: ${what}`;
  const named = (entries: { key: string; name: string }[], key: string | undefined) =>
    entries.find((e) => e.key === key)?.name ?? "";
  const rate = zone?.rate_mm_h;
  const rates = rate ? `${units.figure("rate", rate.low)} to ${units.show("rate", rate.high)}` : "";
  const soil = named(catalogue.soils, zone?.soil);
  const rows: [string, string, number][] = [
    ["Sprinklers", draft.sprinkler ? named(catalogue.sprinklers, draft.sprinkler) : open(rates), 1],
    ["Grass", draft.grass ? named(catalogue.grasses, draft.grass) : open(named(catalogue.grasses, zone?.grass)), 2],
    ["Soil", draft.soil ? `${soil}${"squeezed" in draft.soil ? ", by the squeeze" : ""}` : open(soil), 3],
    ["Sun", EXPOSURES.find((e) => e.value === draft.exposure)?.label ?? open("full sun"), 4],
    ["Slope", FALLS.find((f) => f.fall_m === draft.fall_m)?.label ?? open("nearly flat"), 5],
    ["Area", zone ? (draft.area ? units.show("area", zone.area_m2) : open(units.show("area", zone.area_m2))) : "", 6],
    ["Last soaked", SOAKED.find((s) => s.days === draft.soaked_days_ago)?.label ?? open("half used"), 7],
  ];
  return (
    <dl className={classes.facts}>
      {rows.map(([name, said, step]) => (
        <div key={name} style={{ display: "contents" }}>
          <dt>{name}</dt>
          <dd>
            {said}{" "}
            <Button variant="subtle" size="compact-sm" onClick={() => onChange(step)} aria-label={`Change ${name}`}>
              Change
            </Button>
          </dd>
        </div>
      ))}
    </dl>
  );
}
