import { queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { askedAgain } from "../../queryClient";
import { useChange } from "../site/useChange";

export type Book = Schemas["WaterBook"];
export type Meter = Schemas["Meter"];
export type MeterView = Schemas["MeterView"];
export type Reading = Schemas["ReadingView"];
export type Finding = Schemas["MeterFinding"];
export type FlowFinding = Schemas["FlowFindingView"];
export type Tariff = Schemas["Tariff"];

const path = (site: string) => ({ path: { site: Number(site) } });
const ofMeter = (site: string, meter: number) => ({ path: { site: Number(site), meter } });

export const bookQuery = (site: string, from: string, to: string) =>
  queryOptions({
    queryKey: ["site", site, "book", from, to],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/book", { params: { ...path(site), query: { from, to } } })),
  });

export type Reconciliation = Schemas["Reconciliation"];
export type ReconciledDay = Schemas["ReconciledDay"];

/** Days one by one, beside a flow meter: the one that is named, or the first that was heard. */
export const daysQuery = (site: string, from: string, to: string, meter?: number) =>
  queryOptions({
    queryKey: ["site", site, "book-days", from, to, meter ?? null],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/sites/{site}/reconciliation", {
          params: { ...path(site), query: meter === undefined ? { from, to } : { from, to, meter } },
        }),
      ),
  });

export type Saving = Schemas["Saving"];

export const savingsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "savings"],
    queryFn: ({ signal }) => unwrap(client.GET("/api/v1/sites/{site}/savings", { params: path(site), signal })),
    retry: askedAgain,
  });

export const metersQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "meters"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/meters", { params: path(site) })),
  });

export const readingsQuery = (site: string, meter: number) =>
  queryOptions({
    queryKey: ["site", site, "meters", meter, "readings"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/meters/{meter}/readings", { params: ofMeter(site, meter) })),
  });

export const findingsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "findings"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/findings", { params: path(site) })),
  });

/** Writes a reading, and its photo where there is one. */
export const useRead = (site: string, meter: number, onRead: () => void) =>
  useChange(
    site,
    async ({ body, photo }: { body: Schemas["NewMeterReading"]; photo?: Blob | undefined }) => {
      const { id } = await unwrap(
        client.POST("/api/v1/sites/{site}/meters/{meter}/readings", { params: ofMeter(site, meter), body }),
      );
      if (photo) {
        await unwrap(
          client.PUT("/api/v1/sites/{site}/readings/{reading}/photo", {
            params: { path: { site: Number(site), reading: id } },
            body: photo as unknown as number[],
            bodySerializer: (picture: unknown) => picture as BodyInit,
            headers: { "Content-Type": photo.type },
          }),
        );
      }
      return id;
    },
    onRead,
  );

export const useVoidReading = (site: string) =>
  useChange(site, (reading: number) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/readings/{reading}", { params: { path: { site: Number(site), reading } } }),
    ),
  );

export const useSaveMeter = (site: string, onSaved: () => void) =>
  useChange(
    site,
    ({ existing, meter }: { existing?: MeterView | undefined; meter: Meter }) =>
      existing
        ? unwrap(
            client.PUT("/api/v1/sites/{site}/meters/{meter}", {
              params: { ...ofMeter(site, existing.id), header: { "If-Match": `"${existing.version}"` } },
              body: meter,
            }),
          )
        : unwrap(client.POST("/api/v1/sites/{site}/meters", { params: path(site), body: meter })),
    onSaved,
  );

export type Cap = Schemas["Cap"];
export type CapStanding = Schemas["CapStanding"];

export const capsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "caps"],
    queryFn: ({ signal }) => unwrap(client.GET("/api/v1/sites/{site}/caps", { params: path(site), signal })),
    retry: askedAgain,
  });

export const useSaveCaps = (site: string, onSaved: () => void) =>
  useChange(
    site,
    ({ version, caps }: { version: number; caps: Cap[] }) =>
      unwrap(
        client.PUT("/api/v1/sites/{site}/caps", {
          params: { ...path(site), header: { "If-Match": `"${version}"` } },
          body: caps,
        }),
      ),
    onSaved,
  );

export const useSaveTariffs = (site: string, onSaved: () => void) =>
  useChange(
    site,
    ({ version, tariffs }: { version: number; tariffs: Tariff[] }) =>
      unwrap(
        client.PUT("/api/v1/sites/{site}/tariffs", {
          params: { ...path(site), header: { "If-Match": `"${version}"` } },
          body: tariffs,
        }),
      ),
    onSaved,
  );
