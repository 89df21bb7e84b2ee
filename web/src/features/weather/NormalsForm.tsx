// Twelve months of mean low, high, rain and wet days: typed, pasted, or from a file.
import { Alert, Button, Group, Stack, Text, Textarea, TextInput } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ApiFailure, type Schemas, type SiteView } from "../../api";
import type { Quantity } from "../../quantities";
import { useUnits } from "../../units";
import classes from "../begin/Begin.module.css";
import { FilePick } from "../files/FilePick";
import { useFigures } from "../forms/figures";
import { Refused } from "../shell/States";
import { catalogueQuery, useSaveSite } from "../site/queries";
import { COLUMNS, type Column, MONTHS, tableOf } from "./normals";

const NAMES: Record<Column, { label: string; quantity?: Quantity; range?: string }> = {
  low_c: { label: "Low", quantity: "temperature", range: "tmin_c" },
  high_c: { label: "High", quantity: "temperature", range: "tmax_c" },
  rain_mm: { label: "Rain", quantity: "depth", range: "rain_mm" },
  wet_days: { label: "Wet days" },
};

/** Millimetres of a unit of rain. */
const MM = { mm: 1, cm: 10, in: 25.4 };

const cell = (month: number, column: Column) => `normals[${month}].${column}`;

const stored = (view: SiteView) =>
  Object.fromEntries(
    (view.site.normals ?? []).flatMap((m, month) => COLUMNS.map((column) => [cell(month, column), m[column]])),
  );

type Props = { site: string; view: SiteView; onDone?: () => void };

export function NormalsForm({ site, view, onDone }: Props) {
  const units = useUnits();
  const save = useSaveSite(site);
  const catalogue = useQuery(catalogueQuery);
  const figures = useFigures(stored(view));
  const [pasted, setPasted] = useState("");
  const [unread, setUnread] = useState(false);
  const [gap, setGap] = useState(false);
  const [read, setRead] = useState<string>();

  const take = (text: string) => {
    setPasted(text);
    const table = tableOf(text);
    setUnread(table === undefined && text.trim() !== "");
    setRead(undefined);
    if (!table) return;
    // In the units that the table names, or else in the reader's, as if they were typed.
    const temperature = table.temperature ?? (units.system === "us" ? "f" : "c");
    const rain = table.rain ?? (units.system === "us" ? "in" : "mm");
    const si = (column: Column, x: number) => {
      if (column === "wet_days") return x;
      if (column === "rain_mm") return x * MM[rain];
      return temperature === "f" ? (x - 32) / 1.8 : x;
    };
    const filled = table.months.flatMap((row, month) =>
      COLUMNS.map((column, at) => [cell(month, column), si(column, row[at] ?? 0)] as const),
    );
    figures.fill(Object.fromEntries(filled));
    setRead(`Read as °${temperature.toUpperCase()} and ${rain}.`);
    setPasted("");
  };

  const rough = view.rough_normals;
  const roughWords = `These months are a rough guess by the place’s latitude and height: they may be ${units.show("temperature_difference", rough.doubt_c)} too warm or too cold, and have half or ${rough.doubt_rain} times the rain; a desert has far less. What an atlas or a weather service says is better.`;
  const guess = () => {
    const filled = rough.months.flatMap((m, month) =>
      COLUMNS.map((column) => [cell(month, column), m[column]] as const),
    );
    figures.fill(Object.fromEntries(filled));
    setRead(roughWords);
  };
  const send = (normals: Schemas["Normals"] | null) =>
    save.mutate(
      {
        version: view.version,
        edit: {
          site: { ...view.site, normals },
          windows: view.windows,
          supply: view.supply,
          controller: view.controller,
        },
      },
      {
        onSuccess: () => {
          notifications.show({ message: normals ? "Noted, and planned with them." : "Forgotten, and planned again." });
          onDone?.();
        },
      },
    );
  /** What is wrong with a cell, in the reader's units. */
  const problem = (month: number, column: Column) =>
    catalogue.data && figures.problem(cell(month, column), NAMES[column], catalogue.data);
  const submit = () => {
    const months = MONTHS.map((_, month) =>
      COLUMNS.map((column) => figures.si(cell(month, column), NAMES[column].quantity)),
    );
    const whole = months.every((row) => row.every((value) => value !== undefined));
    setGap(!whole);
    if (!whole || MONTHS.some((_, month) => COLUMNS.some((column) => problem(month, column)))) return;
    send(
      months.map((row) =>
        Object.fromEntries(COLUMNS.map((column, at) => [column, row[at]])),
      ) as unknown as Schemas["Normals"],
    );
  };
  const field = save.error instanceof ApiFailure ? save.error.problem?.field?.replace(/^site\./, "") : undefined;
  const atField = field?.startsWith("normals[") ? field : undefined;
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      <Stack gap="sm">
        <Text className="quiet">
          The mean low and high of a day, the rain of the month, and its days with {units.show("depth", 1)} and more, as
          atlases and weather services print them. They count until the lawn’s own days are known, and less with each.
        </Text>
        <Textarea
          label="Paste a table here"
          description="rows named low, high, rain and wet days, as atlases have them; or twelve rows of four figures, or four rows of twelve months"
          value={pasted}
          rows={2}
          onChange={(e) => take(e.currentTarget.value)}
          error={
            unread &&
            "No rows named low, high, rain and wet days, no twelve rows of four figures, and no four rows of twelve."
          }
        />
        {read && <Text role="status">{read}</Text>}
        {!view.site.normals && !read && (
          <Button type="button" variant="outline" onClick={guess}>
            I have none: fill in a rough guess
          </Button>
        )}
        {rough.are_kept && <Text>{roughWords}</Text>}
        <FilePick label="Or take a file" accept=".csv,.txt,.tsv,text/plain,text/csv" onText={take} />
        <table className={classes.months}>
          <thead>
            <tr>
              <th scope="col">
                <span className="hidden">Month</span>
              </th>
              {COLUMNS.map((column) => {
                const { label, quantity } = NAMES[column];
                return (
                  <th key={column} scope="col">
                    {label}
                    {quantity && `, ${units.label(quantity)}`}
                  </th>
                );
              })}
            </tr>
          </thead>
          <tbody>
            {MONTHS.map((name, month) => (
              <tr key={name}>
                <th scope="row">{name.slice(0, 3)}</th>
                {COLUMNS.map((column) => (
                  <td key={column}>
                    <TextInput
                      size="xs"
                      inputMode="decimal"
                      autoComplete="off"
                      aria-label={`${NAMES[column].label}, ${name}`}
                      value={figures.text(cell(month, column), NAMES[column].quantity)}
                      error={
                        problem(month, column) ??
                        (atField === cell(month, column) ||
                          (gap && figures.si(cell(month, column), NAMES[column].quantity) === undefined))
                      }
                      onChange={(e) => figures.type(cell(month, column), e.currentTarget.value)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {gap && (
          <Alert color="clay" variant="outline" role="alert">
            Twelve months of four figures are needed; those without a number are marked.
          </Alert>
        )}
        <Refused error={save.error}>{atField && ` ${monthOf(atField)}.`}</Refused>
        <Group>
          <Button type="submit" loading={save.isPending}>
            Plan with these
          </Button>
          {view.site.normals && (
            <Button type="button" variant="subtle" onClick={() => send(null)}>
              Forget them
            </Button>
          )}
        </Group>
      </Stack>
    </form>
  );
}

/** The month that a field is of. */
const monthOf = (field: string) => MONTHS[Number(field.match(/\[(\d+)\]/)?.[1] ?? 0)] ?? "";
