// Which grass: by name, or by a few signs that can be seen on one's knees.
import { Button, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Catalogue, Schemas } from "../../api";
import { SignDrawing } from "./drawings";
import { grassKeyQuery } from "./queries";
import { Choices } from "./Step";
import { QUESTIONS, SIGNS } from "./words";

type Grass = Schemas["Grass"];
type Props = { catalogue: Catalogue; chosen: Grass | null | undefined; onChoose: (grass: Grass) => void };

const SEASONS = { cool: "green in winter", warm: "straw in winter" };

export function GrassStep(props: Props) {
  const [byKey, setByKey] = useState(false);
  const named = (keys?: Grass[]) =>
    props.catalogue.grasses
      .filter((g) => !keys || keys.includes(g.key))
      .map((g) => ({ value: g.key, label: g.name, hint: SEASONS[g.season] }));
  if (byKey) return <GrassKey {...props} named={named} onLeave={() => setByKey(false)} />;
  return (
    <>
      <Button type="button" variant="outline" onClick={() => setByKey(true)}>
        Find out by looking at it
      </Button>
      <Choices label="Grasses" choices={named()} chosen={props.chosen} onChoose={props.onChoose} />
    </>
  );
}

type KeyProps = Props & {
  named: (keys: Grass[]) => { value: Grass; label: string; hint: string }[];
  onLeave: () => void;
};

function GrassKey({ chosen, onChoose, named, onLeave }: KeyProps) {
  const [signs, setSigns] = useState<Schemas["Sign"][]>([]);
  const [open, setOpen] = useState<Schemas["Question"][]>([]);
  const step = useQuery(grassKeyQuery({ signs, open }));
  if (!step.data) return null;
  const { found, answers } = step.data;
  const question = found.next ? QUESTIONS[found.next] : undefined;
  const names = named(found.grasses);
  return (
    <>
      {question && found.next ? (
        <>
          <h2>{question.title}</h2>
          <Text className="quiet">{question.hint}</Text>
          <Choices
            label={question.title}
            choices={answers.map((sign) => ({ value: sign, ...SIGNS[sign], drawing: <SignDrawing sign={sign} /> }))}
            chosen={undefined}
            onChoose={(sign) => setSigns([...signs, sign])}
          />
          <Button type="button" variant="outline" onClick={() => found.next && setOpen([...open, found.next])}>
            I can’t tell
          </Button>
        </>
      ) : (
        <h2>{names.length === 1 ? "It is most likely" : "It is one of these"}</h2>
      )}
      {found.against.length > 0 && (
        <Text>
          Not all that you saw goes with one grass ({found.against.map((s) => SIGNS[s].label.toLowerCase()).join(", ")}
          ): look again, or it is a mixture.
        </Text>
      )}
      {names.length <= 5 && <Choices label="Likely grasses" choices={names} chosen={chosen} onChoose={onChoose} />}
      <Button type="button" variant="subtle" onClick={onLeave}>
        Choose by name
      </Button>
    </>
  );
}
