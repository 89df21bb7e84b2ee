// What wants a figure: a screwdriver, a probe, thatch.
import { Button, NativeSelect, Stack } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useState } from "react";
import type { Schemas } from "../../api";
import type { Quantity } from "../../quantities";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import { Loading } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { type Observation, seenQuery } from "./queries";
import { STOPPED, type WITH_FIGURE } from "./words";

type Props = {
  site: string;
  zone: number;
  kind: (typeof WITH_FIGURE)[number]["seen"];
  onNote: (seen: Observation) => void;
};

type Asked = { name: string; label: string; range: string; quantity?: Quantity; unit?: string; optional?: string };

const PERCENT: Asked[] = [
  { name: "reading", label: "It shows", range: "moisture_pct", unit: "%" },
  {
    name: "at_field_capacity",
    label: "At field capacity",
    range: "moisture_pct",
    unit: "%",
    optional: "a day or two after a soaking; empty: by the soil",
  },
];
const OWN: Asked[] = [
  { name: "reading", label: "It shows", range: "probe_scale" },
  { name: "at_field_capacity", label: "A day or two after a soaking", range: "probe_scale" },
  { name: "at_wilting", label: "In dry soil, where grass wilts for good", range: "probe_scale" },
];

export function SeenFigures(props: Props) {
  const seen = useQuery(seenQuery(props.site));
  const [ready, setReady] = useState(false);
  useEffect(() => {
    if (!seen.isFetching) setReady(true);
  }, [seen.isFetching]);
  if (props.kind === "moisture" && !ready) return <Loading what="the probe" />;
  // A probe is calibrated once: as it was read here last.
  const before = seen.data?.find((s) => s.zone === props.zone && s.seen.seen === "moisture")?.seen;
  return <Fields {...props} known={before?.seen === "moisture" ? before : undefined} />;
}

type Known = Extract<Observation, { seen: "moisture" }>;

function Fields({ kind, onNote, known }: Props & { known: Known | undefined }) {
  const catalogue = useQuery(catalogueQuery);
  const [scale, setScale] = useState<"percent" | "own">();
  const on = scale ?? known?.scale ?? "percent";
  const figures = useFigures({
    at_field_capacity: known && known.scale === on ? (known.at_field_capacity ?? null) : null,
    at_wilting: known?.scale === "own" ? known.at_wilting : null,
  });
  const [errors, setErrors] = useErrors(figures);
  const [stopped, setStopped] = useState<Schemas["StoppedBy"]>("dry");
  const asked: Asked[] =
    kind === "moisture"
      ? on === "own"
        ? OWN
        : PERCENT
      : kind === "thatch"
        ? [{ name: "mm", label: "Thatch", range: "soil_depth_mm", quantity: "depth" }]
        : [{ name: "depth_mm", label: "It went in", range: "soil_depth_mm", quantity: "root_depth" }];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!catalogue.data) return;
    const data = catalogue.data;
    const found = Object.fromEntries(
      asked.map((a) => [
        a.name,
        figures.problem(
          a.name,
          { range: a.range, required: !a.optional, ...(a.quantity ? { quantity: a.quantity } : {}) },
          data,
        ),
      ]),
    );
    setErrors(found);
    if (Object.values(found).some(Boolean)) return;
    const si = (name: string, quantity?: Quantity) => figures.si(name, quantity) ?? 0;
    if (kind === "thatch") onNote({ seen: "thatch", mm: si("mm", "depth") });
    else if (kind === "screwdriver") onNote({ seen: "screwdriver", depth_mm: si("depth_mm", "root_depth"), stopped });
    else if (on === "percent")
      onNote({
        seen: "moisture",
        scale: "percent",
        reading: si("reading"),
        at_field_capacity: figures.si("at_field_capacity") ?? null,
      });
    else
      onNote({
        seen: "moisture",
        scale: "own",
        reading: si("reading"),
        at_field_capacity: si("at_field_capacity"),
        at_wilting: si("at_wilting"),
      });
  };
  return (
    <form onSubmit={submit} noValidate>
      <Stack gap="xs" mt="xs">
        {kind === "moisture" && (
          <NativeSelect
            label="The probe’s scale"
            value={on}
            onChange={(e) => setScale(e.currentTarget.value as "percent" | "own")}
            data={[
              { value: "percent", label: "per cent of the soil’s volume" },
              { value: "own", label: "its own, from dry to wet" },
            ]}
          />
        )}
        {asked.map((a) => (
          <FigureField
            key={a.name}
            figures={figures}
            name={a.name}
            label={a.label}
            {...(a.quantity ? { quantity: a.quantity } : {})}
            {...(a.unit ? { unit: a.unit } : {})}
            description={a.optional}
            error={errors[a.name]}
          />
        ))}
        {kind === "screwdriver" && (
          <NativeSelect
            label="Then"
            value={stopped}
            onChange={(e) => setStopped(e.currentTarget.value as Schemas["StoppedBy"])}
            data={Object.entries(STOPPED).map(([value, label]) => ({ value, label }))}
          />
        )}
        <Button type="submit">Note it</Button>
      </Stack>
    </form>
  );
}
