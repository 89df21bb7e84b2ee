// New grass that was mown: its roots are young for a while yet, or it is a lawn, and a manager says so.
import { Button, Stack, Text } from "@mantine/core";
import { longDay } from "../../time";
import { useUnits } from "../../units";
import { Refused } from "../shell/States";
import { useTurnRegime } from "../stress/queries";
import type { NewGrassZone } from "./queries";

type Props = { site: string; zone: NewGrassZone; rootsMm: number; from: string; today: string; manage: boolean };

export function ItIsALawn({ site, zone, rootsMm, from, today, manage }: Props) {
  const units = useUnits();
  const turn = useTurnRegime(site, () => undefined);
  if (from > today)
    return (
      <Text>
        Its roots are taken to be {units.show("root_depth", rootsMm)} deep, deeper each week, and as deep as the lawn’s
        from {longDay(from)} on. Until then leave it as new grass on Site, Zones: the plan waters young roots more
        often.
      </Text>
    );
  return (
    <Stack gap="xs" align="flex-start">
      <Text>
        <strong>Its roots are as deep as the lawn’s.</strong> Once it is said to be a lawn it leaves this page, and is
        asked about in heat and drought like the others.
      </Text>
      <Refused error={turn.error} />
      {manage && (
        <Button
          size="md"
          loading={turn.isPending}
          aria-label={`It is a lawn from today, ${zone.name}`}
          onClick={() => turn.mutate({ zone: zone.zone, regime: "established" })}
        >
          It is a lawn from today
        </Button>
      )}
    </Stack>
  );
}
