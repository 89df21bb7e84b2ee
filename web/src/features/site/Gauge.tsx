// A reading of the rain gauge.
import { Button, Group, Stack, Text, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import type { SiteView } from "../../api";
import { addDays, clock, dayMonth } from "../../time";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import { Sure, useSure } from "../forms/Sure";
import { catalogueQuery, useGauge } from "./queries";
import classes from "./SitePage.module.css";

export function Gauge({ site, view, brief = false }: { site: string; view: SiteView; brief?: boolean }) {
  // Until noon a reading belongs to the day before.
  const morning = clock(view.now, view.site.time_zone) < "12:00";
  const latest = morning ? addDays(view.today, -1) : view.today;
  return <Reading key={latest} site={site} latest={latest} timeZone={view.site.time_zone} brief={brief} />;
}

type ReadingProps = { site: string; latest: string; timeZone: string; brief: boolean };

function Reading({ site, latest, timeZone, brief }: ReadingProps) {
  const units = useUnits();
  const catalogue = useQuery(catalogueQuery);
  const gauge = useGauge(site);
  const [date, setDate] = useState(latest);
  const figures = useFigures({});
  const [wrong, setWrong] = useState<string>();
  const ask = useSure();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!catalogue.data) return;
    const found = figures.problem("rain_mm", { quantity: "depth", required: true }, catalogue.data);
    setWrong(found);
    if (found) return;
    const rain_mm = figures.si("rain_mm", "depth") ?? 0;
    ask.unlessUnlikely((sure) =>
      gauge.mutateAsync({ date, rain_mm, sure }).then(() => {
        notifications.show({
          message: `${units.show("depth", rain_mm)} on ${dayMonth(date)} noted, and planned again.`,
        });
        figures.fill({ rain_mm: undefined });
      }),
    );
  };
  return (
    <form onSubmit={submit} noValidate>
      <Stack gap="sm">
        <h2>Rain gauge</h2>
        <Text className="quiet" hidden={brief}>
          A gauge on the lawn counts before a station. What is read before noon fell the day before; a new reading of a
          day replaces the old.
        </Text>
        <Sure ask={ask} timeZone={timeZone} />
        <div className={classes.fields}>
          <TextInput
            label="Day on which it fell"
            type="date"
            value={date}
            max={latest}
            onChange={(e) => setDate(e.currentTarget.value)}
          />
          <FigureField figures={figures} name="rain_mm" label="Rain" quantity="depth" error={wrong} />
        </div>
        <Group>
          <Button type="submit" loading={gauge.isPending}>
            Note the reading
          </Button>
        </Group>
      </Stack>
    </form>
  );
}
