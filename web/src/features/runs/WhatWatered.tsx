// Which part was watered and by how much: what a run by hand or hose is credited with. Not knowing is an answer.
import { Group, SegmentedControl, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas, ZoneView } from "../../api";
import { useUnits } from "../../units";
import { useErrors } from "../forms/errors";
import { FigureField, type Figures, useFigures } from "../forms/figures";
import { catalogueQuery } from "../site/queries";
import classes from "./Ran.module.css";

type Watered = Schemas["Watered"];
type Part = "part" | "all" | "unknown";
type Flow = "known" | "bucket";

export type What = {
  how: Schemas["How"];
  setHow: (how: Schemas["How"]) => void;
  /** What watered; undefined where a field says what is wrong. */
  read: () => Watered | undefined;
  zone: ZoneView | undefined;
  part: Part;
  setPart: (part: Part) => void;
  flow: Flow;
  setFlow: (flow: Flow) => void;
  figures: Figures;
  errors: Record<string, string | undefined>;
};

/** What is known beforehand: how it is watered, what the hose gave last, and the area that it reached then. */
export type Before = { how?: Schemas["How"] | undefined; flow?: number | undefined; reached?: number | undefined };

export function useWhatWatered(zone: ZoneView | undefined, before: Before): What {
  const units = useUnits();
  const catalogue = useQuery(catalogueQuery);
  const [how, setHow] = useState<Schemas["How"]>(before.how ?? "hose");
  const [part, setPart] = useState<Part>("part");
  const [flow, setFlow] = useState<Flow>(before.flow ? "known" : "bucket");
  const figures = useFigures({
    flow_l_min: before.flow,
    reached_m2: before.reached,
    bucket_l: { metric: "10", us: "5" },
    settings: 1,
  });
  const [errors, setErrors] = useErrors(figures);
  const area = zone?.zone.area_m2 ?? 0;
  const settings = zone?.settings ?? 1;
  const portable = zone?.zone.sprinkler === "portable";

  const read = (): Watered | undefined => {
    const found: Record<string, string | undefined> = {};
    const si = (name: string, quantity?: "area" | "hose_flow" | "bucket") => figures.si(name, quantity);
    if (how === "hand") {
      if (!portable) return { by: "own", share: 1 };
      const count = si("settings");
      if (!count || !Number.isInteger(count) || count < 1 || count > settings)
        found.settings = `A whole number from 1 to ${settings}.`;
      setErrors(found);
      return found.settings ? undefined : { by: "own", share: (count ?? 1) / settings };
    }
    if (part === "unknown") {
      setErrors({});
      return { by: "unmeasured" };
    }
    const reached_m2 = part === "all" ? area : (si("reached_m2", "area") ?? 0);
    if (!(reached_m2 >= 0.1 && reached_m2 <= area))
      found.reached_m2 = `At most the zone's ${units.show("area", area)}.`;
    let flow_l_min = si("flow_l_min", "hose_flow") ?? 0;
    if (flow === "bucket") {
      const [litres, seconds] = [si("bucket_l", "bucket") ?? 0, si("bucket_s") ?? 0];
      if (!(litres > 0)) found.bucket_l = "Fill this in.";
      if (!(seconds > 0)) found.bucket_s = "Fill this in.";
      flow_l_min = seconds > 0 ? (litres * 60) / seconds : 0;
    }
    const problem = catalogue.data && rangeProblem(flow_l_min, catalogue.data, units.show);
    if (problem && !found.bucket_l && !found.bucket_s) found[flow === "bucket" ? "bucket_s" : "flow_l_min"] = problem;
    setErrors(found);
    return Object.values(found).some(Boolean) ? undefined : { by: "hose", flow_l_min, reached_m2 };
  };
  return { how, setHow, read, zone, part, setPart, flow, setFlow, figures, errors };
}

function rangeProblem(
  flow: number,
  catalogue: Schemas["Catalogue"],
  show: (quantity: "hose_flow", si: number) => string,
): string | undefined {
  const range = catalogue.ranges.find((r) => r.name === "hose_flow_l_min");
  if (!range || (flow >= range.min && flow <= range.max)) return undefined;
  return `A hose gives between ${show("hose_flow", range.min)} and ${show("hose_flow", range.max)}.`;
}

export function WhatWatered({ what }: { what: What }) {
  const units = useUnits();
  const { figures, errors, zone } = what;
  if (!zone) return null;
  if (what.how === "hand") {
    if (zone.zone.sprinkler !== "portable") return null;
    return (
      <FigureField
        figures={figures}
        name="settings"
        label={`Places it was set in, of ${zone.settings}`}
        description="the minutes are those of each place"
        error={errors.settings}
      />
    );
  }
  return (
    <Stack gap="xs">
      <SegmentedControl
        aria-label="Which part"
        value={what.part}
        onChange={(v) => what.setPart(v as Part)}
        data={[
          { value: "part", label: "Part of it" },
          { value: "all", label: "All of it" },
          { value: "unknown", label: "I don't know" },
        ]}
      />
      {what.part === "unknown" ? (
        <Text size="sm">
          It is kept in the record. How much fell where nobody knows, so it is not counted in the balance.
        </Text>
      ) : (
        <>
          <div className={classes.noted}>
            {what.part === "part" && (
              <FigureField
                figures={figures}
                name="reached_m2"
                label="Area reached"
                description={`of ${units.show("area", zone.zone.area_m2)}`}
                quantity="area"
                error={errors.reached_m2}
              />
            )}
            {what.flow === "known" ? (
              <FigureField
                figures={figures}
                name="flow_l_min"
                label="Hose gives"
                quantity="hose_flow"
                error={errors.flow_l_min}
              />
            ) : (
              <>
                <FigureField
                  figures={figures}
                  name="bucket_l"
                  label="A bucket of"
                  quantity="bucket"
                  error={errors.bucket_l}
                />
                <FigureField figures={figures} name="bucket_s" label="fills in" unit="s" error={errors.bucket_s} />
              </>
            )}
          </div>
          <Group>
            <button
              type="button"
              className={classes.link}
              onClick={() => what.setFlow(what.flow === "known" ? "bucket" : "known")}
            >
              {what.flow === "known" ? "Measure the hose by bucket and watch" : "I know what the hose gives"}
            </button>
          </Group>
        </>
      )}
    </Stack>
  );
}
