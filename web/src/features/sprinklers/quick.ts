// Ways of a quick test: the fields of each, with their ranges in the catalogue, and the test that they make.
import type { Quantity } from "../../quantities";
import type { QuickTest, SprinklerTest } from "./queries";

export type Way = QuickTest["way"];

export const WAYS: { value: Way; label: string }[] = [
  { value: "to_depth", label: "Cans, watch" },
  { value: "meter", label: "Meter" },
  { value: "nozzle", label: "Nozzle chart" },
];

/** What a person chose besides figures. */
export type Choices = {
  way: Way;
  /** Cans that were timed. */
  timed: number;
  /** Whether heads stand in rows side by side; else in equal triangles. */
  square: boolean;
  /** Whether pressures were typed. */
  pressures: boolean;
};

/** Names of the cans' times. */
export const timesOf = (timed: number) => Array.from({ length: timed }, (_, i) => `minutes[${i}]`);

type Field = [string, string, Quantity?];

/** Each field with its range in the catalogue and its quantity. */
export function fieldsOf({ way, timed, square, pressures }: Choices): Field[] {
  switch (way) {
    case "to_depth":
      return [["mark_mm", "mark_mm", "depth"], ...timesOf(timed).map((name): Field => [name, "minutes"])];
    case "meter":
      return [
        ["before_l", "meter_l", "volume"],
        ["after_l", "meter_l", "volume"],
        ["minutes", "minutes"],
        ["area_m2", "area_m2", "area"],
      ];
    case "nozzle": {
      const fields: Field[] = [
        ["flow_l_min", "nozzle_flow_l_min", "nozzle_flow"],
        ["arc_degrees", "arc_degrees"],
        ["head_spacing_m", "spacing_m", "length"],
      ];
      if (square) fields.push(["row_spacing_m", "spacing_m", "length"]);
      if (pressures) fields.push(["chart_kpa", "pressure_kpa", "pressure"], ["here_kpa", "pressure_kpa", "pressure"]);
      return fields;
    }
  }
}

/** The test that the figures make. */
export function testOf(chosen: Choices, si: (name: string, quantity?: Quantity) => number): SprinklerTest {
  switch (chosen.way) {
    case "to_depth":
      return {
        method: "quick",
        way: "to_depth",
        mark_mm: si("mark_mm", "depth"),
        minutes: timesOf(chosen.timed).map((name) => si(name)),
      };
    case "meter":
      return {
        method: "quick",
        way: "meter",
        before_l: si("before_l", "volume"),
        after_l: si("after_l", "volume"),
        minutes: si("minutes"),
        area_m2: si("area_m2", "area"),
      };
    case "nozzle":
      return {
        method: "quick",
        way: "nozzle",
        flow_l_min: si("flow_l_min", "nozzle_flow"),
        arc_degrees: si("arc_degrees"),
        head_spacing_m: si("head_spacing_m", "length"),
        ...(chosen.square ? { row_spacing_m: si("row_spacing_m", "length") } : {}),
        ...(chosen.pressures
          ? { pressures: { chart_kpa: si("chart_kpa", "pressure"), here_kpa: si("here_kpa", "pressure") } }
          : {}),
      };
  }
}
