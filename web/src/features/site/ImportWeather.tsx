// Import with a preview: what the file says, what does not hold, what would change. Nothing is written before it is confirmed.

import { Alert, Button, Group, Radio, Stack, Text } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useState } from "react";
import type { Preview } from "../../api";
import { counted } from "../../plural";
import { longDay } from "../../time";
import { useUnits } from "../../units";
import { FilePick } from "../files/FilePick";
import { Refused } from "../shell/States";
import { MapColumns } from "./MapColumns";
import { useImport, usePreview } from "./queries";
import classes from "./SitePage.module.css";

const MOST_LINES = 20;

export function ImportWeather({ site }: { site: string }) {
  const [file, setFile] = useState<{ name: string; text: string }>();
  const preview = usePreview(site);
  const pick = (text: string, name: string) => {
    setFile({ name, text });
    preview.mutate({ text });
  };
  const done = () => {
    setFile(undefined);
    preview.reset();
  };
  return (
    <Stack gap="sm">
      <h2>Import a weather file</h2>
      <FilePick
        label="Weather file (CSV)"
        hint="One line a day: date, tmin_c, tmax_c, rain_mm, … Other files too: you say which column is what. NOAA's daily series by station (GHCN-Daily) is read as it is."
        accept=".csv,text/csv"
        onText={pick}
      />
      {preview.isPending && <Text role="status">Reading {file?.name} …</Text>}
      <Refused error={preview.error} />
      {preview.data?.heading && preview.data.mapping && file && (
        <MapColumns
          key={file.name}
          heading={preview.data.heading}
          start={preview.data.mapping}
          remembered={preview.data.mapped}
          onChosen={(mapping) => preview.mutate({ text: file.text, mapping })}
        />
      )}
      {preview.data && file && (preview.data.mapped || !preview.data.heading) && (
        <Confirm site={site} name={file.name} text={file.text} preview={preview.data} onDone={done} />
      )}
    </Stack>
  );
}

function Confirm(props: { site: string; name: string; text: string; preview: Preview; onDone: () => void }) {
  const { preview, name } = props;
  const [conflicts, setConflicts] = useState<"keep" | "replace">("keep");
  const confirm = useImport(props.site);
  // Lines, not the faults in them.
  const bad = new Set(preview.errors.map((e) => e.line)).size;
  const added = preview.new_days + preview.forecast_rows;
  const written = conflicts === "replace" ? added + preview.different_days : added;
  const submit = () =>
    confirm.mutate(
      {
        text: props.text,
        conflicts,
        weatherVersion: preview.weather_version,
        ...(preview.mapped && preview.mapping ? { mapping: preview.mapping } : {}),
      },
      {
        onSuccess: (done) => {
          notifications.show({
            message: `${counted(done.days, "day")} imported${done.kept > 0 ? `, ${done.kept} kept as they were` : ""}; planned again.`,
          });
          props.onDone();
        },
      },
    );
  return (
    <section aria-label={`Preview of ${name}`}>
      <Stack gap="sm">
        {bad > 0 ? (
          <Alert color="clay" variant="outline" role="alert" title={`${counted(bad, "line")} cannot be used`}>
            <Text>Nothing is written. Correct the file and pick it again.</Text>
            <ul className={classes.bad}>
              {preview.errors.slice(0, MOST_LINES).map((e) => (
                <li key={`${e.line} ${e.column} ${e.message}`}>
                  Line {e.line}
                  {e.column ? `, column ${e.column}` : ""}: {e.message}
                </li>
              ))}
              {preview.errors.length > MOST_LINES && <li>and {preview.errors.length - MOST_LINES} more</li>}
            </ul>
          </Alert>
        ) : (
          <Text>
            <strong>{name}</strong>: {counted(preview.rows, "row")}
            {preview.first && preview.last ? `, ${longDay(preview.first)} to ${longDay(preview.last)}` : ""}.
          </Text>
        )}
        <ul className={classes.bad}>
          <li>{counted(preview.new_days, "new day")}</li>
          {preview.same_days > 0 && <li>{counted(preview.same_days, "day")} as now already</li>}
          {preview.different_days > 0 && <li>{counted(preview.different_days, "day")} with other figures than now</li>}
          {preview.forecast_rows > 0 && (
            <li>{counted(preview.forecast_rows, "row")} from today on, kept as a forecast</li>
          )}
          {preview.gaps.map((g) => (
            <li key={g.first}>
              missing: {longDay(g.first)}
              {g.last !== g.first ? ` to ${longDay(g.last)}` : ""}; plans fill such days with the recent mean, without
              rain
            </li>
          ))}
          {preview.left_out > 0 && (
            <li>{counted(preview.left_out, "figure")} left out: the file says they failed a check</li>
          )}
          {preview.ignored_columns.length > 0 && <li>columns not read: {preview.ignored_columns.join(", ")}</li>}
        </ul>
        {bad === 0 && preview.different_days > 0 && (
          <>
            <Differences preview={preview} />
            <Radio.Group
              label="Days with other figures than now"
              value={conflicts}
              onChange={(v) => setConflicts(v as "keep" | "replace")}
            >
              <Group mt={6}>
                <Radio value="keep" label="Keep what is there" />
                <Radio value="replace" label="Replace by what the file carries" />
              </Group>
            </Radio.Group>
          </>
        )}
        <Refused error={confirm.error} />
        <Group>
          {bad === 0 && (
            <Button onClick={submit} disabled={written === 0} loading={confirm.isPending}>
              {importWords(preview, conflicts)}
            </Button>
          )}
          <Button variant="subtle" onClick={props.onDone}>
            {bad > 0 || written === 0 ? "Close" : "Discard"}
          </Button>
        </Group>
      </Stack>
    </section>
  );
}

/** What the button does: rows that are written, and days that stay as they are. */
function importWords(preview: Preview, conflicts: "keep" | "replace"): string {
  const added = preview.new_days + preview.forecast_rows;
  const differ = preview.different_days;
  if (differ === 0) return added === 0 ? "Nothing to import" : `Import ${counted(added, "row")}`;
  if (conflicts === "replace")
    return added === 0
      ? `Replace ${counted(differ, "day")}`
      : `Import ${counted(added, "row")}, replace ${counted(differ, "day")}`;
  return added === 0
    ? `Nothing to import: ${counted(differ, "day")} kept`
    : `Import ${counted(added, "row")}, keep ${counted(differ, "day")}`;
}

function Differences({ preview }: { preview: Preview }) {
  const units = useUnits();
  const rain = (mm: number | null | undefined) => (mm == null ? "–" : units.figure("depth", mm));
  const range = (low: number | null | undefined, high: number | null | undefined) =>
    low == null || high == null ? "–" : `${units.figure("temperature", low)} to ${units.figure("temperature", high)}`;
  return (
    <table className={classes.table}>
      <thead>
        <tr>
          <th scope="col">Day</th>
          <th scope="col">
            Now: {units.label("temperature")}, rain {units.label("depth")}
          </th>
          <th scope="col">In the file</th>
        </tr>
      </thead>
      <tbody>
        {preview.different.slice(0, 8).map(({ live, file }) => (
          <tr key={live.date}>
            <th scope="row">{longDay(live.date)}</th>
            <td>
              {range(live.tmin_c, live.tmax_c)}, {rain(live.rain_mm)}
            </td>
            <td>
              {range(file.tmin_c, file.tmax_c)}, {rain(file.rain_mm)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
