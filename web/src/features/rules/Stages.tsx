// Drought stages: which is in force from which day on.
import { Button, Group, TextInput } from "@mantine/core";
import type { Rules } from "./queries";
import classes from "./Rules.module.css";

type Stage = NonNullable<Rules["stages"]>[number];
type Props = {
  stages: Stage[];
  today: string;
  error: (field: string) => string | undefined;
  onChange: (stages: Stage[]) => void;
};

export function Stages({ stages, today, error, onChange }: Props) {
  const change = (index: number, part: Partial<Stage>) =>
    onChange(stages.map((s, i) => (i === index ? { ...s, ...part } : s)));
  return (
    <section>
      <h2>Drought stages</h2>
      <p className="quiet">
        From which day each is in force; an empty name ends them. Rules that name a stage hold only during it.
      </p>
      {stages.map((stage, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: stages have no identity but their place
        <Group key={i} align="start" className={classes.stage}>
          <TextInput
            label={`Stage ${i + 1} from`}
            type="date"
            value={stage.from}
            error={error(`rules.stages[${i}].from`)}
            onChange={(e) => change(i, { from: e.currentTarget.value || today })}
          />
          <TextInput
            label={`Name of stage ${i + 1}`}
            value={stage.stage ?? ""}
            error={error(`rules.stages[${i}].stage`)}
            onChange={(e) => change(i, { stage: e.currentTarget.value || null })}
          />
          <Button variant="subtle" size="xs" onClick={() => onChange(stages.filter((_, j) => j !== i))}>
            Remove stage {i + 1}
          </Button>
        </Group>
      ))}
      <Button
        variant="outline"
        size="xs"
        mt="xs"
        onClick={() => onChange([...stages, { from: today, stage: `Stage ${stages.length + 1}` }])}
      >
        Add a change of stage
      </Button>
    </section>
  );
}
