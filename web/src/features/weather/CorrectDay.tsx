// A day's low, high and rain as they stand, to be typed over, and what was typed of it to be taken back.
import { Button, Group, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api";
import { dayMonth } from "../../time";
import classes from "../begin/Begin.module.css";
import { FigureField, useFigures } from "../forms/figures";
import { Sure, useSure } from "../forms/Sure";
import { Refused } from "../shell/States";
import { catalogueQuery } from "../site/queries";
import { DAY_FIGURES } from "./dayFigures";
import { useForgetDay, useTell } from "./queries";

type Props = { site: string; timeZone: string; row: Schemas["WeatherRow"]; onDone: () => void };

export function CorrectDay({ site, timeZone, row, onDone }: Props) {
  const { date } = row.day;
  const tell = useTell(site);
  const forget = useForgetDay(site);
  const ask = useSure();
  const catalogue = useQuery(catalogueQuery);
  const figures = useFigures(Object.fromEntries(DAY_FIGURES.map((f) => [f.key, row.day[f.key]])));
  const [nothing, setNothing] = useState(false);
  const problem = (f: (typeof DAY_FIGURES)[number]) =>
    catalogue.data && figures.problem(f.key, { range: f.key, quantity: f.quantity }, catalogue.data);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    // Low and high count together. Rain counts by itself: that of a gauge or a station stays theirs unless it is typed.
    const meant = DAY_FIGURES.filter((f) => f.key !== "rain_mm" || figures.typed(f.key));
    const told = Object.fromEntries(meant.map((f) => [f.key, figures.si(f.key, f.quantity)]));
    const untouched = !DAY_FIGURES.some((f) => figures.typed(f.key));
    setNothing(untouched);
    if (untouched || DAY_FIGURES.some(problem)) return;
    ask.unlessUnlikely((sure) => tell.mutateAsync({ days: [{ date, ...told }], sure }).then(onDone));
  };
  return (
    <form onSubmit={submit} noValidate aria-label={`The weather of ${dayMonth(date)}`}>
      <Sure ask={ask} timeZone={timeZone} />
      <div className={classes.fields}>
        {DAY_FIGURES.map((f) => (
          <FigureField
            key={f.key}
            figures={figures}
            name={f.key}
            label={`${f.label}, ${dayMonth(date)}`}
            quantity={f.quantity}
            error={problem(f)}
          />
        ))}
      </div>
      {nothing && <p role="alert">Type at least one figure.</p>}
      <Refused error={forget.error} />
      <Group mt="xs">
        <Button type="submit" loading={tell.isPending}>
          Correct it
        </Button>
        {row.origin === "typed" && (
          <Button
            type="button"
            variant="subtle"
            loading={forget.isPending}
            onClick={() => forget.mutate(date, { onSuccess: onDone })}
          >
            Take back what was typed
          </Button>
        )}
        <Button type="button" variant="subtle" onClick={onDone}>
          Leave it
        </Button>
      </Group>
      {row.by_gauge && <Text className="quiet">Its rain is the gauge’s: a new reading of the gauge corrects it.</Text>}
    </form>
  );
}
