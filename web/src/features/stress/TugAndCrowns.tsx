// What tells asleep from dead: whether brown grass holds when pulled at, and whether its crowns live.
import { Choice } from "../forms/Choice";

export function TugChoice({ holds, onChoose }: { holds: boolean | undefined; onChoose: (holds: boolean) => void }) {
  return (
    <Choice
      label="Tug at the brown grass"
      options={[
        { value: "holds", label: "it holds" },
        { value: "lifts", label: "it comes away" },
      ]}
      chosen={holds === undefined ? [] : [holds ? "holds" : "lifts"]}
      onChoose={(value) => onChoose(value === "holds")}
    />
  );
}

export function CrownsChoice({ alive, onChoose }: { alive: boolean | undefined; onChoose: (alive: boolean) => void }) {
  return (
    <Choice
      label="Its crowns, where blades meet roots"
      options={[
        { value: "alive", label: "green, or white and firm" },
        { value: "dead", label: "brown and brittle" },
      ]}
      chosen={alive === undefined ? [] : [alive ? "alive" : "dead"]}
      onChoose={(value) => onChoose(value === "alive")}
    />
  );
}
