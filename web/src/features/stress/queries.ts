import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

export type StressView = Schemas["StressView"];
export type ZoneStress = Schemas["ZoneStress"];
export type Scarcity = Schemas["Scarcity"];
export type DormancyDay = Schemas["DormancyDay"];
export type Regime = Schemas["Regime"];

export const stressQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "stress"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/stress", { params: { path: { site: Number(site) } } })),
  });

/** What a volume for the coming week comes to; without one what a cap leaves, or all that is needed. */
export const scarcityQuery = (site: string, litres: number | undefined) =>
  queryOptions({
    queryKey: ["site", site, "scarcity", litres],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/sites/{site}/scarcity", {
          params: { path: { site: Number(site) }, query: litres === undefined ? {} : { litres } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useTurnRegime = (site: string, onDone: () => void) =>
  useChange(
    site,
    ({ zone, ...body }: { zone: number } & Schemas["RegimeTurn"]) =>
      unwrap(
        client.PUT("/api/v1/sites/{site}/zones/{zone}/regime", {
          params: { path: { site: Number(site), zone } },
          body,
        }),
      ),
    onDone,
  );
