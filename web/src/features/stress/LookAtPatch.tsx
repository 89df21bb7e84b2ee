// A look at a patch: a tug, its crowns, a photo; of a new one also where it is and how large.
import { Button, FileButton, Group, NativeSelect, Stack, Text, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ApiFailure } from "../../api";
import { newKey } from "../../key";
import { FigureField, useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { asBlob, small } from "../soil/picture";
import { type PatchView, useLookAtPatch, type ZoneRecovery } from "./queries";
import { CrownsChoice, TugChoice } from "./TugAndCrowns";

type Props = { site: string; onDone: () => void } & ({ patch: PatchView } | { zones: ZoneRecovery[] });

export function LookAtPatch({ site, onDone, ...of }: Props) {
  const catalogue = useQuery(catalogueQuery);
  const look = useLookAtPatch(site, onDone);
  const figures = useFigures({});
  // One key for one look, however often it is sent.
  const [idempotency_key] = useState(newKey);
  const zones = "zones" in of ? of.zones : [];
  const waking = zones.find((z) => z.regime === "recovering" || z.regime === "dormant");
  const [zone, setZone] = useState((waking ?? zones[0])?.zone);
  const [name, setName] = useState("");
  const [holds, setHolds] = useState<boolean>();
  const [alive, setAlive] = useState<boolean>();
  const [photo, setPhoto] = useState<Blob>();
  const [unread, setUnread] = useState(false);
  const [problem, setProblem] = useState<{ name?: string; area?: string | undefined }>({});
  const refused = look.error instanceof ApiFailure ? look.error : undefined;
  const refusedAt = refused?.problem?.field;
  const send = () => {
    const body = { holds: holds ?? null, alive: alive ?? null, idempotency_key };
    if ("patch" in of) {
      look.mutate({ patch: of.patch.id, body, photo });
      return;
    }
    if (!catalogue.data) return;
    const rule = { range: "patch_m2", quantity: "patch" as const, required: true };
    const found = {
      ...(name.trim() ? {} : { name: "Say where it is." }),
      area: figures.problem("area_m2", rule, catalogue.data),
    };
    setProblem(found);
    const area_m2 = figures.si("area_m2", "patch");
    if (found.name || found.area || area_m2 === undefined || zone === undefined) return;
    look.mutate({ zone, body: { ...body, name: name.trim(), area_m2 }, photo });
  };
  const pick = async (file: File | null) => {
    if (!file) return;
    try {
      setPhoto(asBlob(await small(file)));
      setUnread(false);
    } catch {
      setUnread(true);
    }
  };
  return (
    <Stack gap="md">
      {"zones" in of && (
        <>
          <NativeSelect
            label="Zone"
            value={zone}
            data={zones.map((z) => ({ value: String(z.zone), label: z.name }))}
            onChange={(e) => setZone(Number(e.currentTarget.value))}
          />
          <TextInput
            label="Where it is"
            placeholder="by the drive"
            maxLength={200}
            value={name}
            error={problem.name ?? (refusedAt === "name" ? refused?.message : undefined)}
            onChange={(e) => setName(e.currentTarget.value)}
          />
          <FigureField
            figures={figures}
            name="area_m2"
            label="Its area"
            quantity="patch"
            error={problem.area ?? (refusedAt === "area_m2" ? refused?.message : undefined)}
          />
        </>
      )}
      <TugChoice holds={holds} onChoose={setHolds} />
      <CrownsChoice alive={alive} onChoose={setAlive} />
      {refusedAt !== "name" && refusedAt !== "area_m2" && <Refused error={look.error} />}
      {unread && (
        <Text role="alert" c="clay">
          This file is not a picture that the phone can read.
        </Text>
      )}
      <Group gap="xs">
        <Button size="md" loading={look.isPending} onClick={send}>
          Note it
        </Button>
        <FileButton accept="image/jpeg,image/png,image/webp" onChange={pick}>
          {(props) => (
            <Button {...props} size="md" variant="outline">
              {photo ? "Another photo instead" : "Add a photo"}
            </Button>
          )}
        </FileButton>
      </Group>
      {photo && <Text className="quiet">A photo goes with it.</Text>}
    </Stack>
  );
}
