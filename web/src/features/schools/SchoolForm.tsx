// Setting a zone to a school: its figures, from today on.
import { Button, Group, NativeSelect, Stack, Text } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { type FormEvent, useState } from "react";
import { ApiFailure, type Catalogue, type ZoneView } from "../../api";
import { useErrors } from "../forms/errors";
import { FigureField, type Rule, useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { Follows } from "../week/Follows";
import { useSchool, useTrySchool } from "./queries";
import { type Kind, SCHOOLS, type School, USUAL } from "./words";

type Field = { name: string; label: string; rule: Rule; unit?: string; description?: string };

const depth: Rule = { quantity: "depth", required: true };
const every: Field = { name: "every_days", label: "Days from one watering to the next", rule: { required: true } };
const FIELDS: Record<Kind, Field[]> = {
  water_balance: [],
  weekly_target: [
    { name: "target_mm", label: "A week, rain counted", rule: depth },
    {
      name: "hot_target_mm",
      label: "A hot week",
      rule: { quantity: "depth" },
      description: "while the last weeks’ mean is 25 °C (77 °F) or more; empty: the same",
    },
    { name: "dormant_target_mm", label: "While dormant with cold", rule: depth, description: "0: not at all" },
  ],
  fixed_interval: [{ name: "depth_mm", label: "Each time", rule: depth }, every],
  every_other_day: [{ name: "run_minutes", label: "Each time", rule: { required: true }, unit: "min" }, every],
};

type Props = { site: string; zone: ZoneView; kind: Kind; catalogue: Catalogue; today: string; onDone: () => void };

export function SchoolForm({ site, zone, kind, catalogue, today, onDone }: Props) {
  const own = zone.zone.school;
  const first = own?.kind === kind ? own : USUAL[kind];
  const figures = useFigures(
    Object.fromEntries(Object.entries(first).filter(([, value]) => typeof value === "number")),
  );
  const [errors, setErrors] = useErrors(figures);
  const [soaks, setSoaks] = useState(String(first.kind === "weekly_target" ? (first.soaks ?? 2) : 2));
  const save = useSchool(site);
  const fields = FIELDS[kind];
  const attempt = useTrySchool(site);
  /** The school as it is typed; nothing where a figure does not hold. */
  const asked = (): School | undefined => {
    const found = fields.map(({ name, rule }) => [name, figures.problem(name, rule, catalogue)] as const);
    const wrong = Object.fromEntries(found.filter((pair): pair is [string, string] => pair[1] !== undefined));
    setErrors(wrong);
    if (Object.keys(wrong).length > 0) return undefined;
    const typed = Object.fromEntries(fields.map(({ name, rule }) => [name, figures.si(name, rule.quantity)]));
    return { kind, ...typed, ...(kind === "weekly_target" ? { soaks: Number(soaks) } : {}) } as School;
  };
  const onError = (error: Error) => {
    const field = error instanceof ApiFailure ? error.problem?.field?.replace(/^school\./, "") : undefined;
    if (field) setErrors({ [field]: error.message });
  };
  const look = () => {
    const school = asked();
    if (school) attempt.mutate({ zone: zone.id, school }, { onError });
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const school = asked();
    if (!school) return;
    save.mutate(
      { zone, school, today },
      {
        onSuccess: () => {
          notifications.show({
            message: `${zone.zone.name} is watered by the ${SCHOOLS[kind].name.toLowerCase()} from today on.`,
          });
          onDone();
        },
        onError,
      },
    );
  };
  return (
    <form onSubmit={submit} noValidate>
      <Stack>
        <Text>{SCHOOLS[kind].argues}</Text>
        <Refused error={save.error ?? attempt.error} />
        {fields.map(({ name, label, rule, unit, description }) => (
          <FigureField
            key={name}
            figures={figures}
            name={name}
            label={label}
            {...(rule.quantity ? { quantity: rule.quantity } : {})}
            {...(unit ? { unit } : {})}
            required={rule.required ?? false}
            description={description}
            error={errors[name]}
          />
        ))}
        {kind === "weekly_target" && (
          <NativeSelect
            label="Soaks a week"
            data={["1", "2", "3"]}
            value={soaks}
            onChange={(e) => setSoaks(e.currentTarget.value)}
          />
        )}
        <Text className="quiet">
          Skips, soaks and allowed hours hold all the same; days before keep the school that they had.
        </Text>
        {attempt.data && <Follows follows={attempt.data} today={today} zone={String(zone.id)} />}
        <Group justify="flex-end">
          <Button variant="outline" loading={attempt.isPending} onClick={look}>
            See what follows
          </Button>
          <Button variant="subtle" onClick={onDone}>
            Cancel
          </Button>
          <Button type="submit" loading={save.isPending}>
            Water it so
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
