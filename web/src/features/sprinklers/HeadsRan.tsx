// Which heads ran while the cans stood: all, unless a person says otherwise.
import { Chip, Group, Text } from "@mantine/core";
import type { Layout } from "./queries";

type Props = {
  heads: Layout["heads"];
  /** Numbers of those that ran; undefined: all. */
  ran: string[] | undefined;
  onRan: (ran: string[]) => void;
};

export function HeadsRan({ heads, ran, onRan }: Props) {
  return (
    <details>
      <summary>
        {ran && ran.length < heads.length
          ? `${ran.length} of ${heads.length} heads ran`
          : heads.length === 1
            ? "The one head ran"
            : `All ${heads.length} heads ran`}
      </summary>
      <Text size="sm" className="quiet">
        Heads that ran:
      </Text>
      <Chip.Group multiple value={ran ?? heads.map((_, i) => String(i + 1))} onChange={onRan}>
        <Group gap="xs">
          {heads.map((h, i) => (
            <Chip key={`${h.x_m} ${h.y_m}`} value={String(i + 1)}>
              {i + 1}
            </Chip>
          ))}
        </Group>
      </Chip.Group>
    </details>
  );
}

/** Numbers of the heads that did not run. */
export const idleHeads = (heads: Layout["heads"], ran: string[] | undefined): number[] =>
  ran ? heads.map((_, i) => i + 1).filter((n) => !ran.includes(String(n))) : [];
