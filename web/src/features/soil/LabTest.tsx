import { Text } from "@mantine/core";
import classes from "../sprinklers/Sprinklers.module.css";
import type { FormProps } from "./form";
import { NotedFields } from "./Noted";

export function LabTest({ catalogue, noted, note, problem }: FormProps) {
  return (
    <>
      <Text size="sm">
        The shares from the laboratory’s report. They add up to 100 %, give or take 2 for its rounding.
      </Text>
      <div className={classes.fields}>
        <NotedFields
          catalogue={catalogue}
          noted={noted}
          note={note}
          problem={problem}
          fields={[
            { name: "sand_pct", label: "Sand", range: "sand_pct", unit: "%" },
            { name: "silt_pct", label: "Silt", range: "silt_pct", unit: "%" },
            { name: "clay_pct", label: "Clay", range: "clay_pct", unit: "%" },
            {
              name: "organic_pct",
              label: "Organic matter",
              range: "organic_pct",
              unit: "%",
              description: "empty: 2.5",
            },
          ]}
        />
      </div>
    </>
  );
}
