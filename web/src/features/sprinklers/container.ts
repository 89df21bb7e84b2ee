// What catches the water: its measures, and how it is read.
import type { Schemas } from "../../api";
import type { Quantity } from "../../quantities";
import type { Figures } from "../forms/figures";

export type Container = Schemas["Container"];

export const CONTAINERS: { value: Container["kind"]; label: string }[] = [
  { value: "straight", label: "Straight sides, a ruler" },
  { value: "volume", label: "mL, mouth's area" },
  { value: "round", label: "mL, round mouth" },
];

/** Fields of each kind of can: name in the API, label, quantity, unit. */
export const CAN_FIELDS: Record<Container["kind"], [string, string, Quantity?, string?][]> = {
  straight: [["container.deep_mm", "Can's depth", "depth"]],
  volume: [
    ["container.throat_cm2", "Mouth", "throat"],
    ["container.holds_ml", "Holds", undefined, "mL"],
  ],
  round: [
    ["container.mouth_mm", "Mouth across", "depth"],
    ["container.holds_ml", "Holds", undefined, "mL"],
  ],
};

/** Measures to begin with: the cans of the last test, of whichever zone, are most likely the cans of this one. */
export function usualContainer(last: Container | undefined): Parameters<Figures["fill"]>[0] {
  return {
    "container.throat_cm2": last?.kind === "volume" ? last.throat_cm2 : { metric: "100", us: "15.5" },
    "container.mouth_mm": last?.kind === "round" ? last.mouth_mm : { metric: "113", us: "4.5" },
    "container.holds_ml": last && last.kind !== "straight" ? last.holds_ml : 250,
    "container.deep_mm": last?.kind === "straight" ? last.deep_mm : { metric: "100", us: "4" },
  };
}

/** The container that is meant. */
export function containerOf(kind: Container["kind"], si: (name: string, quantity?: Quantity) => number): Container {
  switch (kind) {
    case "straight":
      return { kind, deep_mm: si("container.deep_mm", "depth") };
    case "round":
      return { kind, mouth_mm: si("container.mouth_mm", "depth"), holds_ml: si("container.holds_ml") };
    case "volume":
      return { kind, throat_cm2: si("container.throat_cm2", "throat"), holds_ml: si("container.holds_ml") };
  }
}
