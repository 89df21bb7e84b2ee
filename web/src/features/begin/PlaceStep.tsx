// Where the lawn is: by this device, by the nearest place of the time-zone table, or typed.
import { Button, Group, NativeSelect, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type Schemas, unwrap } from "../../api";
import { useUnits } from "../../units";
import { FigureField, useFigures } from "../forms/figures";
import { catalogueQuery } from "../site/queries";
import classes from "./Begin.module.css";
import type { SiteAnswers } from "./kept";
import { placesQuery } from "./queries";
import { Step } from "./Step";

type Place = Schemas["Place"];
type Props = {
  number: number;
  of: number;
  onBack: (() => void) | undefined;
  draft: SiteAnswers;
  onTell: (part: SiteAnswers) => void;
  /** Goes on, with what was typed. */
  onNext: (typed: SiteAnswers) => void;
};

const zoneHere = () => Intl.DateTimeFormat().resolvedOptions().timeZone;
const rounded = (degrees: number) => Math.round(degrees * 1000) / 1000;

const degrees = (x: number | undefined) => `${String(x ?? "").replace("-", "−")}°`;

/** `Mendoza (Argentina)` is told apart by what stands before it in the zone's name. */
const named = (place: Place) =>
  `${place.name} (${place.time_zone.split("/").slice(0, -1).join(", ").replaceAll("_", " ")})`;

type Point = { latitude: number; longitude: number };

/** The time zone to begin with at a point: this device's own where it may be that of the point. */
const zoneAt = async (at: Point) => {
  const query = { ...at, time_zone: zoneHere() };
  const { time_zone } = await unwrap(client.GET("/api/v1/places", { params: { query } }));
  return time_zone ? { time_zone } : {};
};

export function PlaceStep({ draft, onTell, onNext, ...step }: Props) {
  const places = useQuery(placesQuery());
  const catalogue = useQuery(catalogueQuery);
  const figures = useFigures({
    latitude: draft.latitude,
    longitude: draft.longitude,
    elevation_m: draft.elevation_m,
  });
  const units = useUnits();
  const [typing, setTyping] = useState(false);
  const [said, setSaid] = useState<string>();
  const known = draft.latitude !== undefined && draft.longitude !== undefined && draft.time_zone !== undefined;

  const take = (place: Place) => {
    onTell({ time_zone: place.time_zone, latitude: rounded(place.latitude), longitude: rounded(place.longitude) });
    figures.fill({ latitude: rounded(place.latitude), longitude: rounded(place.longitude) });
  };
  // The main place of this device's own time zone is the first guess.
  const guess = places.data?.places.find((p) => p.time_zone === zoneHere());
  // biome-ignore lint/correctness/useExhaustiveDependencies: once the table is there
  useEffect(() => {
    if (guess && !known) take(guess);
  }, [guess]);

  const locate = () => {
    setSaid("asking this device …");
    navigator.geolocation?.getCurrentPosition(
      async ({ coords }) => {
        const at = { latitude: rounded(coords.latitude), longitude: rounded(coords.longitude) };
        const zone = await zoneAt(at).catch((error: Error) => setSaid(error.message));
        if (!zone) return;
        const elevation = coords.altitude == null ? {} : { elevation_m: Math.round(coords.altitude) };
        onTell({ ...at, ...elevation, ...zone });
        figures.fill({ ...at, ...elevation });
        setSaid(`found: ${degrees(at.latitude)}, ${degrees(at.longitude)}`);
      },
      () => setSaid("this device does not say where it is; choose a place, or type it"),
      { timeout: 10_000 },
    );
    if (!navigator.geolocation) setSaid("this device does not say where it is; choose a place, or type it");
  };

  const wrong = (name: string, rule: { quantity?: "elevation"; required?: boolean }) =>
    catalogue.data && figures.problem(name, rule, catalogue.data);
  const problems = {
    latitude: wrong("latitude", { required: true }),
    longitude: wrong("longitude", { required: true }),
    elevation_m: wrong("elevation_m", { quantity: "elevation" }),
  };
  const [latitude, longitude] = [figures.si("latitude"), figures.si("longitude")];
  const at =
    typing && latitude !== undefined && longitude !== undefined && !problems.latitude && !problems.longitude
      ? { latitude, longitude, time_zone: zoneHere() }
      : undefined;
  const near = useQuery({ ...placesQuery(at), enabled: at !== undefined });
  const next = async () => {
    if (typing) {
      if (!at || problems.elevation_m) return;
      const zone = await zoneAt(at).catch((error: Error) => setSaid(error.message));
      if (zone) onNext({ ...at, ...zone, elevation_m: figures.si("elevation_m", "elevation") ?? null });
    } else if (known) onNext({});
    else setSaid("choose the nearest place, type the coordinates, or let this device say where it is");
  };
  const shown = places.data?.places.find(
    (p) => rounded(p.latitude) === draft.latitude && rounded(p.longitude) === draft.longitude,
  );
  const sorted = [...(places.data?.places ?? [])].sort((a, b) => a.name.localeCompare(b.name));
  return (
    <Step
      {...step}
      title="Where is it?"
      hint="The sun’s height, and with it what grass uses, go by it. Within a hundred kilometres (sixty miles) is near enough."
      next={{ onClick: next }}
    >
      <Group>
        <Button type="button" variant="outline" onClick={locate}>
          Where this device is
        </Button>
        {said && <span role="status">{said}</span>}
      </Group>
      <NativeSelect
        label="The nearest of these places"
        value={shown?.time_zone ?? ""}
        data={[{ value: "", label: "choose" }, ...sorted.map((p) => ({ value: p.time_zone, label: named(p) }))]}
        onChange={(e) => {
          const place = sorted.find((p) => p.time_zone === e.currentTarget.value);
          if (place) take(place);
        }}
      />
      {!typing && (
        <Text>
          {known && `${degrees(draft.latitude)}, ${degrees(draft.longitude)}, time zone ${draft.time_zone}. `}
          <Button type="button" variant="subtle" size="compact-sm" onClick={() => setTyping(true)}>
            Type it
          </Button>
        </Text>
      )}
      {typing && (
        <div className={classes.fields}>
          <FigureField
            figures={figures}
            name="latitude"
            label="Latitude, ° (south negative)"
            error={problems.latitude}
          />
          <FigureField
            figures={figures}
            name="longitude"
            label="Longitude, ° (west negative)"
            error={problems.longitude}
          />
          <FigureField
            figures={figures}
            name="elevation_m"
            label="Elevation"
            quantity="elevation"
            description="empty: not known"
            error={problems.elevation_m}
          />
          {at && near.data?.nearest && near.data.nearest_km != null && (
            <Text role="status">
              Time zone {near.data.time_zone}. {near.data.nearest.name} is the nearest of these places,{" "}
              {units.show("distance", near.data.nearest_km * 1000)} away.
            </Text>
          )}
        </div>
      )}
    </Step>
  );
}
