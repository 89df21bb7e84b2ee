import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

export type SoilTest = Schemas["SoilTest"];
export type SoilTestView = Schemas["SoilTestView"];
export type SoilResult = Schemas["SoilResult"];
export type Layer = Schemas["Layer"];
export type Observation = Schemas["Observation"];
export type SeenView = Schemas["SeenView"];
export type Worth = Schemas["WorthMeasuring"];

const at = (site: string, zone: number) => ({ path: { site: Number(site), zone } });

export const soilTestsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "soil-tests"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/soil-tests", { params: { path: { site: Number(site) } } })),
  });

export const seenQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "seen"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/seen", { params: { path: { site: Number(site) } } })),
  });

/** What a test says so far; nothing is written. */
export const resultQuery = (site: string, zone: number, test: SoilTest | undefined) =>
  queryOptions({
    queryKey: ["soil-result", site, zone, test],
    queryFn: () => {
      if (!test) throw new Error("Nothing is measured yet.");
      return unwrap(
        client.POST("/api/v1/sites/{site}/zones/{zone}/soil-test-results", { params: at(site, zone), body: test }),
      );
    },
    enabled: test !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useAddSoilTest = (site: string, zone: number) =>
  useChange(site, (body: Schemas["DoneSoilTest"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/zones/{zone}/soil-tests", { params: at(site, zone), body })),
  );

export const useSoilStanding = (site: string) =>
  useChange(site, ({ test, standing }: { test: number; standing: Schemas["Standing"] }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/soil-tests/{test}/standing", {
        params: { path: { site: Number(site), test } },
        body: { standing },
      }),
    ),
  );

export const noteSeen = (site: string, zone: number, body: Schemas["JustSeen"]) =>
  unwrap(client.POST("/api/v1/sites/{site}/zones/{zone}/seen", { params: at(site, zone), body }));

export const putPhoto = (site: string, seen: number, photo: Blob) =>
  unwrap(
    client.PUT("/api/v1/sites/{site}/seen/{seen}/photo", {
      params: { path: { site: Number(site), seen } },
      body: photo as unknown as number[],
      bodySerializer: (body) => body as unknown as Blob,
      headers: { "content-type": photo.type },
    }),
  );

export const photoAddress = (site: string, seen: number) => `/api/v1/sites/${site}/seen/${seen}/photo`;

export const useUndoSeen = (site: string) =>
  useChange(site, (seen: number) =>
    unwrap(client.DELETE("/api/v1/sites/{site}/seen/{seen}", { params: { path: { site: Number(site), seen } } })),
  );
