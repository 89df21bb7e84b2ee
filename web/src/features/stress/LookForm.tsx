// One look at a zone: footprints first, then colour, and what tells asleep from dead where it is brown.
import { Button, NativeSelect, Stack, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api";
import { Choice } from "../forms/Choice";
import { FigureField, useFigures } from "../forms/figures";
import { catalogueQuery } from "../site/queries";
import type { Observation } from "../soil/queries";
import { SPOTS, STOPPED } from "../soil/words";
import type { ZoneStress } from "./queries";
import { CrownsChoice, TugChoice } from "./TugAndCrowns";

export type Look = { seen: Observation; with: Observation[]; spot: Schemas["HotSpot"] | null };

type Sign = "dull_colour" | "tips" | "patches" | "puddles";
type Stay = Schemas["FootprintsStay"];
type Stopped = Schemas["StoppedBy"];

const STAYS: { value: Stay; label: string }[] = [
  { value: "rise", label: "rise at once" },
  { value: "minutes", label: "stay for minutes" },
  { value: "half_hour", label: "stay half an hour" },
];
const SIGNS: { value: Sign; label: string }[] = [
  { value: "dull_colour", label: "dull or bluish" },
  { value: "tips", label: "straw tips" },
  { value: "patches", label: "brown patches" },
  { value: "puddles", label: "puddles" },
];

/** A usual screwdriver (common practice, no source). */
const BLADE_MM = 150;

export function LookForm({ zone, onLook }: { zone: ZoneStress; onLook: (look: Look) => void }) {
  const catalogue = useQuery(catalogueQuery);
  const figures = useFigures({ blade_mm: BLADE_MM });
  const [spot, setSpot] = useState<Schemas["HotSpot"]>();
  const [stay, setStay] = useState<Stay>();
  const [signs, setSigns] = useState<Sign[]>([]);
  const [holds, setHolds] = useState<boolean>();
  const [alive, setAlive] = useState<boolean>();
  const [stopped, setStopped] = useState<Stopped>();
  const [problem, setProblem] = useState<{ footprints?: string; depth?: string | undefined }>({});
  // What went in all the way went in as far as its blade is long.
  const measured = stopped === "nothing" ? "blade_mm" : "depth_mm";
  const isBrown = signs.includes("tips") || signs.includes("patches") || zone.regime === "dormant";
  const own = zone.hot_edges.map((edge) => edge.spot);
  const spots = Object.keys(SPOTS) as Schemas["HotSpot"][];
  const note = () => {
    const depth = { range: "soil_depth_mm", quantity: "root_depth" as const, required: true };
    const found = {
      ...(stay ? {} : { footprints: "Say first how long footprints stay: step on it and look back." }),
      depth: stopped && catalogue.data ? figures.problem(measured, depth, catalogue.data) : undefined,
    };
    setProblem(found);
    if (!stay || found.depth) return;
    const others: Observation[] = signs.map((seen) => ({ seen }));
    if (isBrown && holds !== undefined) others.push({ seen: "tug", holds });
    if (isBrown && alive !== undefined) others.push({ seen: "crowns", alive });
    const depth_mm = figures.si(measured, "root_depth") ?? 0;
    if (stopped) others.push({ seen: "screwdriver", depth_mm, stopped });
    onLook({ seen: { seen: "footprints", stay }, with: others, spot: spot ?? null });
  };
  return (
    <Stack gap="md" mt="sm">
      <NativeSelect
        label="Looked at"
        value={spot ?? ""}
        data={[
          { value: "", label: "All of the zone" },
          ...spots
            .sort((a, b) => Number(own.includes(b)) - Number(own.includes(a)))
            .map((value) => ({ value, label: `Only ${SPOTS[value]}` })),
        ]}
        onChange={(e) => setSpot(spots.find((s) => s === e.currentTarget.value))}
      />
      <div>
        <Choice label="Footprints" options={STAYS} chosen={stay ? [stay] : []} onChoose={setStay} />
        {problem.footprints && (
          <Text role="alert" c="clay" size="sm">
            {problem.footprints}
          </Text>
        )}
      </div>
      <Choice
        label="It is, or has"
        options={SIGNS}
        chosen={signs}
        onChoose={(sign) => setSigns((s) => (s.includes(sign) ? s.filter((other) => other !== sign) : [...s, sign]))}
      />
      {isBrown && (
        <>
          <TugChoice holds={holds} onChoose={setHolds} />
          <CrownsChoice alive={alive} onChoose={setAlive} />
        </>
      )}
      <Choice
        label="A screwdriver pushed in"
        options={(Object.keys(STOPPED) as Stopped[]).map((value) => ({ value, label: STOPPED[value] }))}
        chosen={stopped ? [stopped] : []}
        onChoose={(value) => setStopped(value === stopped ? undefined : value)}
      />
      {stopped && (
        <FigureField
          figures={figures}
          name={measured}
          label={stopped === "nothing" ? "Length of its blade" : "It went in"}
          quantity="root_depth"
          error={problem.depth}
        />
      )}
      <Button size="lg" onClick={note}>
        Note it
      </Button>
    </Stack>
  );
}
