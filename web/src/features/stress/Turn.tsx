// A zone is let go, woken or kept green from today on, with the reason.
import { Button, Stack, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { publishingQuery } from "../publishing/queries";
import { Refused } from "../shell/States";
import { type Regime, useTurnRegime, type ZoneStress } from "./queries";

export function Turn({ site, zone, to, onDone }: { site: string; zone: ZoneStress; to: Regime; onDone: () => void }) {
  const turn = useTurnRegime(site, onDone);
  const [note, setNote] = useState("");
  const published = useQuery(publishingQuery(site)).data?.published;
  const says: Partial<Record<Regime, string>> = {
    dormant:
      "It goes brown. Its crowns alone are watered from today on, and it stays so until it cools and rains: three weeks at least.",
    recovering: "It is watered as turf again from today on, and uses more from day to day for three weeks.",
    established:
      zone.regime === "established"
        ? "It stays as it is. That it is kept green is your choice, and not asked again this summer."
        : "It is watered as green turf from today on.",
  };
  const early = to === "recovering" && !zone.proposes;
  return (
    <Stack gap="sm">
      <Text>{says[to]}</Text>
      {to === "dormant" && zone.kept_green_until && (
        <Text fw={650}>
          It was chosen to keep it green. To let it go half-way through a drought costs it more than to do so at once.
        </Text>
      )}
      {early && (
        <Text fw={650}>It is early: it has not rained and cooled enough. Turf that is woken into heat wears out.</Text>
      )}
      {published && zone.regime !== to && (
        <Text>The week that is published waters it as before. Publish it again on Week.</Text>
      )}
      <TextInput
        label="Why, in your words"
        maxLength={200}
        value={note}
        onChange={(e) => setNote(e.currentTarget.value)}
      />
      <Refused error={turn.error} />
      <Button
        size="md"
        loading={turn.isPending}
        onClick={() => turn.mutate({ zone: zone.zone, regime: to, ...(note.trim() ? { note: note.trim() } : {}) })}
      >
        {to === "dormant" ? "Let it go" : to === "recovering" ? "Wake it" : "Keep it green"} from today
      </Button>
    </Stack>
  );
}
