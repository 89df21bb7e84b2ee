import { Text } from "@mantine/core";
import { useState } from "react";
import classes from "../sprinklers/Sprinklers.module.css";
import { Stopwatch } from "../sprinklers/Stopwatch";
import type { FormProps } from "./form";
import { NotedFields } from "./Noted";

export function RunoffTest({ catalogue, noted, note, problem }: FormProps) {
  /** How many times the stopwatch has told. */
  const [told, setTold] = useState(0);
  const take = (time: Record<string, number>) => {
    note(time);
    setTold((n) => n + 1);
  };
  return (
    <>
      <Text size="sm">
        Run the zone on ground that is due for water, and watch its lowest and hardest place. Stop at the first puddle
        that stays, or the first water that runs.
      </Text>
      <Stopwatch start="Sprinklers on" take="Water stands or runs" onTime={(minutes) => take({ minutes })} />
      {typeof noted.minutes === "number" && (
        <Stopwatch
          start="Sprinklers off: time the soak"
          take="It has gone in"
          onTime={(gone_minutes) => take({ gone_minutes })}
        />
      )}
      <div className={classes.fields}>
        <NotedFields
          key={told}
          catalogue={catalogue}
          noted={noted}
          note={note}
          problem={problem}
          fields={[
            { name: "minutes", label: "Until water stood", range: "minutes_to_runoff", unit: "min" },
            {
              name: "gone_minutes",
              label: "Until it had gone in",
              range: "soak_minutes",
              unit: "min",
              description: "if you waited for it",
            },
          ]}
        />
      </div>
    </>
  );
}
