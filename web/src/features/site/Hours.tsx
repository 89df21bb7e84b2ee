// Allowed days and hours: local rules, recorded.
import { Button, Checkbox, Group, NativeSelect, Stack, Text, TextInput } from "@mantine/core";
import type { Schemas } from "../../api";
import classes from "./SitePage.module.css";

const DAYS = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"] as const;

type Window = Schemas["Window"];

export function Hours(props: {
  windows: Window[];
  onChange: (windows: Window[]) => void;
  errors: Record<string, string | undefined>;
}) {
  const { windows, onChange } = props;
  const change = (index: number, part: Partial<Window>) =>
    onChange(windows.map((w, i) => (i === index ? { ...w, ...part } : w)));
  return (
    <Stack>
      <h2>Allowed days and hours</h2>
      <Text className="quiet">Local rules decide; this only records them. Nothing is planned outside these hours.</Text>
      {windows.length === 0 && <Text>No day is allowed: nothing will be planned.</Text>}
      {windows.map((w, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: windows have no identity but their place
        <fieldset key={i} className={classes.group}>
          <legend>Window {i + 1}</legend>
          <Stack gap="sm">
            <Checkbox.Group
              label="Days"
              value={w.days}
              error={props.errors[`windows[${i}].days`]}
              onChange={(days) => change(i, { days: DAYS.filter((d) => days.includes(d)) })}
            >
              <Group mt={6} gap="sm">
                {DAYS.map((day) => (
                  <Checkbox key={day} value={day} label={day.charAt(0).toUpperCase() + day.slice(1, 3)} />
                ))}
              </Group>
            </Checkbox.Group>
            <div className={classes.fields}>
              <TextInput
                label="From"
                type="time"
                value={w.from}
                onChange={(e) => change(i, { from: e.currentTarget.value })}
              />
              <TextInput
                label="To"
                type="time"
                value={w.to}
                error={props.errors[`windows[${i}].to`]}
                onChange={(e) => change(i, { to: e.currentTarget.value })}
              />
              <NativeSelect
                label="Dates"
                value={w.dates ?? "any"}
                onChange={(e) => change(i, { dates: e.currentTarget.value as Window["dates"] })}
                data={[
                  { value: "any", label: "All" },
                  { value: "odd", label: "Odd dates" },
                  { value: "even", label: "Even dates" },
                ]}
              />
            </div>
            <Button variant="subtle" size="xs" onClick={() => onChange(windows.filter((_, j) => j !== i))}>
              Remove window {i + 1}
            </Button>
          </Stack>
        </fieldset>
      ))}
      <Button
        variant="outline"
        onClick={() => onChange([...windows, { days: [...DAYS], dates: "any", from: "04:00", to: "09:00" }])}
      >
        Add a window
      </Button>
    </Stack>
  );
}
