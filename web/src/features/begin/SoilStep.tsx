// Which soil: by a squeeze of it, or by name.
import { Button, Text } from "@mantine/core";
import { useState } from "react";
import type { Catalogue, Schemas } from "../../api";
import { BallDrawing } from "./drawings";
import { Choices } from "./Step";
import { BALLS, FEELS } from "./words";

type Props = {
  catalogue: Catalogue;
  chosen: Schemas["SoilAnswer"] | null | undefined;
  onChoose: (soil: Schemas["SoilAnswer"]) => void;
};

export function SoilStep({ catalogue, chosen, onChoose }: Props) {
  const [byName, setByName] = useState(false);
  const [ball, setBall] = useState<Schemas["Ball"]>();
  const texture = chosen && "texture" in chosen ? chosen.texture : undefined;
  const squeezed = chosen && "squeezed" in chosen ? chosen.squeezed : undefined;
  if (byName)
    return (
      <>
        <Choices
          label="Soils"
          choices={catalogue.soils.map((s) => ({ value: s.key, label: s.name }))}
          chosen={texture}
          onChoose={(texture) => onChoose({ texture })}
        />
        <Button type="button" variant="subtle" onClick={() => setByName(false)}>
          Squeeze it instead
        </Button>
      </>
    );
  if (ball)
    return (
      <>
        <h2>Make a little of it very wet in the palm. How does it feel?</h2>
        <Choices
          label="Feel"
          choices={FEELS}
          chosen={squeezed?.feel}
          onChoose={(feel) => onChoose({ squeezed: { ball, feel } })}
        />
        <Button type="button" variant="subtle" onClick={() => setBall(undefined)}>
          Squeeze again
        </Button>
      </>
    );
  // Where there is no ribbon the feel tells nothing more.
  const told = (ball: Schemas["Ball"]) =>
    ball === "falls_apart" || ball === "no_ribbon" ? onChoose({ squeezed: { ball, feel: "neither" } }) : setBall(ball);
  return (
    <>
      <Text>
        Take a handful from root depth, moist as putty. Press it to a ball, then push it out between thumb and finger to
        a ribbon, until it breaks.
      </Text>
      <Choices
        label="Ball"
        choices={BALLS.map((b) => ({ ...b, drawing: <BallDrawing ball={b.value} /> }))}
        chosen={squeezed?.ball}
        onChoose={told}
      />
      <Button type="button" variant="outline" onClick={() => setByName(true)}>
        I know the soil by name
      </Button>
    </>
  );
}
