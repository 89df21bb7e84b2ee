import { Button, Text } from "@mantine/core";
import { useState } from "react";
import type { Schemas } from "../../api";
import { BallDrawing } from "../begin/drawings";
import { Choices } from "../begin/Step";
import { BALLS, FEELS } from "../begin/words";
import type { FormProps } from "./form";

export function SqueezeTest({ noted, note }: FormProps) {
  const ball = noted.ball as Schemas["Ball"] | undefined;
  const feel = noted.feel as Schemas["Feel"] | undefined;
  const [again, setAgain] = useState(false);
  const ribbon = ball && ball !== "falls_apart" && ball !== "no_ribbon";
  if (ball && ribbon && !again)
    return (
      <>
        <h2>Make a little of it very wet in the palm. How does it feel?</h2>
        <Choices label="Feel" choices={FEELS} chosen={feel} onChoose={(feel) => note({ feel })} />
        <Button variant="subtle" onClick={() => setAgain(true)}>
          Squeeze again
        </Button>
      </>
    );
  return (
    <>
      <Text size="sm">
        Take a handful from root depth, moist as putty. Press it to a ball, then push it out between thumb and finger to
        a ribbon, until it breaks.
      </Text>
      <Choices
        label="Ball"
        choices={BALLS.map((b) => ({ ...b, drawing: <BallDrawing ball={b.value} /> }))}
        chosen={ball}
        onChoose={(ball) => {
          // Where there is no ribbon the feel tells nothing more.
          const known = ball === "falls_apart" || ball === "no_ribbon";
          note({ ball, feel: known ? "neither" : undefined });
          setAgain(false);
        }}
      />
    </>
  );
}
