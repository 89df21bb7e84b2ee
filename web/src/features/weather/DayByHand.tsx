// Yesterday's low, high and rain, in ten seconds; the other days that nobody told of as a small table.
import { Button, Group, Stack, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { type ClipboardEvent, type FormEvent, useState } from "react";
import { ApiFailure, type Schemas } from "../../api";
import { parse } from "../../numbers";
import { addDays, dayMonth, shortDay } from "../../time";
import { useUnits } from "../../units";
import classes from "../begin/Begin.module.css";
import { useFigures } from "../forms/figures";
import { Sure, useSure } from "../forms/Sure";
import { catalogueQuery } from "../site/queries";
import { DAY_FIGURES } from "./dayFigures";
import { useTell } from "./queries";

const name = (date: string, key: string) => `${date} ${key}`;

type Props = {
  site: string;
  today: string;
  timeZone: string;
  /** Days that nobody told of, the earliest first. */
  missing: string[];
};

export function DayByHand({ site, today, timeZone, missing }: Props) {
  const units = useUnits();
  const tell = useTell(site);
  const catalogue = useQuery(catalogueQuery);
  const figures = useFigures({});
  const ask = useSure();
  const [all, setAll] = useState(false);
  const [nothing, setNothing] = useState(false);
  const yesterday = addDays(today, -1);
  const others = missing.filter((date) => date !== yesterday);
  const first = missing.includes(yesterday) ? [yesterday] : others.slice(-1);
  const dates = all ? [...missing].reverse() : first;

  const told = dates.flatMap((date): Schemas["ToldDay"][] => {
    const of = (f: (typeof DAY_FIGURES)[number]) => figures.si(name(date, f.key), f.quantity);
    const day = Object.fromEntries(DAY_FIGURES.map((f) => [f.key, of(f)]));
    return Object.values(day).some((value) => value !== undefined) ? [{ date, ...day }] : [];
  });
  const problem = (date: string, f: (typeof DAY_FIGURES)[number]) =>
    catalogue.data && figures.problem(name(date, f.key), { range: f.key, quantity: f.quantity }, catalogue.data);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setNothing(told.length === 0);
    if (told.length === 0 || dates.some((date) => DAY_FIGURES.some((f) => problem(date, f)))) return;
    ask.unlessUnlikely((sure) =>
      tell.mutateAsync({ days: told, sure }).then(() => {
        const days = told.length === 1 ? dayMonth(told[0]?.date ?? yesterday) : `${told.length} days`;
        notifications.show({ message: `The weather of ${days} is noted, and planned with.` });
        for (const date of dates)
          figures.fill(Object.fromEntries(DAY_FIGURES.map((f) => [name(date, f.key), undefined])));
      }),
    );
  };
  /** A table that is pasted fills the cells from where it is pasted. */
  const paste = (row: number, column: number) => (event: ClipboardEvent) => {
    const rows = event.clipboardData
      .getData("text")
      .trim()
      .split(/\r?\n/)
      .map((line) => line.split(/[\t;]|\s+/));
    if (rows.length === 1 && rows[0]?.length === 1) return;
    event.preventDefault();
    for (const [r, cells] of rows.entries())
      for (const [c, text] of cells.entries()) {
        const [date, f] = [dates[row + r], DAY_FIGURES[column + c]];
        if (date && f && parse(text) !== undefined) figures.type(name(date, f.key), text);
      }
  };
  // `days[2].tmin_c` is the third that was sent.
  const field =
    tell.error instanceof ApiFailure ? tell.error.problem?.field?.match(/^days\[(\d+)\]\.(.+)$/) : undefined;
  const wrong = field && told[Number(field[1])] ? name(told[Number(field[1])]?.date ?? "", field[2] ?? "") : undefined;
  return (
    <form onSubmit={submit} noValidate>
      <Stack gap="sm">
        <h2>{first[0] === yesterday && !all ? "Yesterday’s weather" : "Weather of missed days"}</h2>
        <Sure ask={ask} timeZone={timeZone} />
        <table className={classes.months}>
          <thead>
            <tr>
              <th scope="col">Day</th>
              {DAY_FIGURES.map((f) => (
                <th key={f.key} scope="col">
                  {f.label}, {units.label(f.quantity)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {dates.map((date, row) => (
              <tr key={date}>
                <th scope="row">{shortDay(date)}</th>
                {DAY_FIGURES.map((f, column) => (
                  <td key={f.key}>
                    <TextInput
                      inputMode="decimal"
                      autoComplete="off"
                      aria-label={`${f.label}, ${dayMonth(date)}`}
                      value={figures.text(name(date, f.key), f.quantity)}
                      error={problem(date, f) ?? (wrong === name(date, f.key) && tell.error?.message)}
                      onChange={(e) => figures.type(name(date, f.key), e.currentTarget.value)}
                      onPaste={paste(row, column)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {nothing && <p role="alert">Type at least one figure.</p>}
        <Group>
          <Button type="submit" loading={tell.isPending}>
            Note it
          </Button>
          {!all && others.length > 0 && first[0] === yesterday && (
            <Button type="button" variant="subtle" onClick={() => setAll(true)}>
              {others.length === 1 ? `${dayMonth(others[0] ?? "")} too` : `${others.length} more days are missing`}
            </Button>
          )}
        </Group>
      </Stack>
    </form>
  );
}
