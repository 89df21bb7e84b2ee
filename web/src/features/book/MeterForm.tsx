// A meter as its manager describes it.
import { Button, Checkbox, Group, NativeSelect, Stack, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ApiFailure } from "../../api";
import { useErrors } from "../forms/errors";
import { FigureField, useFigures } from "../forms/figures";
import { Failed, Loading, Refused } from "../shell/States";
import { catalogueQuery, zonesQuery } from "../site/queries";
import { type Meter, type MeterView, useSaveMeter } from "./queries";
import { METER_UNITS } from "./words";

const FIELDS = [
  { name: "digits", label: "Digits before the point", required: true },
  { name: "decimals", label: "Digits after the point that are read" },
  { name: "multiplier", label: "What a count stands for, of the unit" },
  { name: "pulse_l", label: "A pulse of its flow sensor, L" },
];

type Props = { site: string; existing: MeterView | undefined; onDone: () => void };

export function MeterForm({ site, existing, onDone }: Props) {
  const catalogue = useQuery(catalogueQuery);
  const zones = useQuery(zonesQuery(site));
  const was = existing?.meter;
  const [name, setName] = useState(was?.name ?? "");
  const [unit, setUnit] = useState<Meter["unit"]>(was?.unit ?? "m3");
  const first = {
    digits: was?.digits ?? 5,
    decimals: was?.decimals ?? 0,
    multiplier: was?.multiplier ?? 1,
    pulse_l: was?.pulse_l,
  };
  const figures = useFigures(first, { stored: was !== undefined });
  const [errors, setErrors] = useErrors(figures);
  const [feeds, setFeeds] = useState<string[]>(was?.feeds ?? []);
  const [house, setHouse] = useState(was?.house ?? false);
  const [until, setUntil] = useState(was?.active_to ?? "");
  const save = useSaveMeter(site, () => {
    notifications.show({ message: "Saved." });
    onDone();
  });
  const failed = catalogue.error ?? zones.error;
  if (failed) return <Failed message={failed.message} />;
  if (!catalogue.data || !zones.data) return <Loading what="the form" />;
  const ranges = catalogue.data;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const wrong: Record<string, string> = {};
    for (const f of FIELDS) {
      const p = figures.problem(f.name, f, ranges);
      if (p) wrong[f.name] = p;
    }
    setErrors(wrong);
    if (Object.keys(wrong).length > 0) return;
    save.mutate({
      existing,
      meter: {
        name,
        unit,
        digits: figures.si("digits") ?? 5,
        decimals: figures.si("decimals") ?? 0,
        multiplier: figures.si("multiplier") ?? 1,
        pulse_l: figures.si("pulse_l") ?? null,
        feeds,
        house,
        active_from: was?.active_from ?? null,
        active_to: until || null,
      },
    });
  };
  const refused = save.error instanceof ApiFailure ? save.error.problem : undefined;
  const error = (field: string) => errors[field] ?? (refused?.field === field ? refused.detail : undefined);
  const fed = (id: string) => feeds.includes(id);
  return (
    <form onSubmit={submit} aria-label="Meter">
      <Stack gap="sm">
        <TextInput label="Name" value={name} error={error("name")} onChange={(e) => setName(e.currentTarget.value)} />
        <NativeSelect
          label="It counts in"
          data={METER_UNITS}
          value={unit}
          error={error("unit")}
          onChange={(e) => setUnit(e.currentTarget.value as Meter["unit"])}
        />
        {FIELDS.map((f) => (
          <FigureField key={f.name} figures={figures} {...f} error={error(f.name)} />
        ))}
        <Checkbox.Group
          label="Zones that it feeds"
          description="None chosen: all of them."
          value={feeds}
          onChange={setFeeds}
        >
          <Stack gap={6} mt={4}>
            {zones.data
              .filter((z) => !z.zone.active_to || fed(String(z.id)))
              .map((z) => (
                <Checkbox key={z.id} value={String(z.id)} label={z.zone.name} />
              ))}
          </Stack>
        </Checkbox.Group>
        <Checkbox label="It feeds the house too" checked={house} onChange={(e) => setHouse(e.currentTarget.checked)} />
        {existing && (
          <TextInput
            type="date"
            label="Taken out after"
            description="Its readings stay. Empty: it is there."
            value={until}
            error={error("active_to")}
            onChange={(e) => setUntil(e.currentTarget.value)}
          />
        )}
        <Refused error={save.error && !refused?.field ? save.error : null} />
        <Group>
          <Button type="submit" loading={save.isPending}>
            Save the meter
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
