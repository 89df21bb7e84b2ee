import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { newKey } from "../../key";
import { askedAgain } from "../../queryClient";
import { useChange } from "../site/useChange";
import { noteSeen } from "../soil/queries";

export type NewGrassZone = Schemas["NewGrassZone"];
export type Stages = Schemas["NewGrassStages"];
export type SowingWeeks = Schemas["SowingWeeks"];
export type SowingWeek = Schemas["SowingWeek"];
export type SowingPlan = Schemas["SowingPlan"];
export type SowingPoint = Schemas["SowingPointDay"];
export type Method = Schemas["SowingMethod"];
export type Grass = Schemas["Grass"];

/** Notes what was seen of new grass, now. */
export const useNoteGrown = (site: string, zone: number) =>
  useChange(site, (grown: Schemas["Grown"]) =>
    noteSeen(site, zone, { seen: { seen: "grown", grown }, idempotency_key: newKey() }),
  );

/** Notes whether sod or plugs held when somebody tugged at them, now. */
export const useNoteTug = (site: string, zone: number) =>
  useChange(site, (holds: boolean) =>
    noteSeen(site, zone, { seen: { seen: "tug", holds }, idempotency_key: newKey() }),
  );

/** Zones of turf with how far their new grass is; feedings by the share of the feed that is slow-release. */
export const newGrassQuery = (site: string, slow: number) =>
  queryOptions({
    queryKey: ["site", site, "new-grass", slow],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/sites/{site}/new-grass", {
          params: { path: { site: Number(site) }, query: { slow_pct: slow } },
        }),
      ),
    placeholderData: keepPreviousData,
  });

/** What sowing in each week ahead comes to. */
export const weeksQuery = (site: string, zone: number, sown: Pick<Asked, "grass" | "method" | "hours">) =>
  queryOptions({
    queryKey: ["site", site, "sowing-weeks", zone, sown],
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/v1/sites/{site}/zones/{zone}/sowing-weeks", {
          params: { path: { site: Number(site), zone }, query: sown },
          signal,
        }),
      ),
    staleTime: 60_000,
    retry: askedAgain,
  });

/** What a person sets, and what the labels say. */
export type Asked = {
  grass: Grass;
  method: Method;
  hours: Schemas["SowingHours"];
  sow?: string;
  soil_work?: string;
  spray?: string;
  wait_days?: number;
  area_m2?: number;
  purity_pct?: number;
  germination_pct?: number;
  nitrogen_pct?: number;
  phosphate_pct?: number;
  slow_pct?: number;
  spacing_mm?: number;
  lime_kg_m2?: number;
};

/** Planned backwards from frost, with what it takes; without a day of sowing days are proposed. */
export const planSowingQuery = (site: string, zone: number, asked: Asked) =>
  queryOptions({
    queryKey: ["site", site, "sowing-plan", zone, asked],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/sites/{site}/zones/{zone}/sowing-plan", {
          params: { path: { site: Number(site), zone }, query: asked },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export type KeptSowing = Schemas["KeptSowingView"];

/** New grass that is planned for the site's zones. */
export const keptQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "kept-sowings"],
    queryFn: () =>
      unwrap(client.GET("/api/v1/sites/{site}/kept-sowings", { params: { path: { site: Number(site) } } })),
  });

/** Keeps the days on which new grass is made in a zone; nothing forgets them. */
export const useKeepSowing = (site: string, zone: number) =>
  useChange(site, (kept: Schemas["KeptSowing"] | undefined) => {
    const params = { path: { site: Number(site), zone } };
    const path = "/api/v1/sites/{site}/zones/{zone}/kept-sowing" as const;
    return kept ? unwrap(client.PUT(path, { params, body: kept })) : unwrap(client.DELETE(path, { params }));
  });

/** Keeps a count of seedlings in frames. */
export const useCountStand = (site: string, zone: number, onDone: () => void) =>
  useChange(
    site,
    (counted: Schemas["Counted"]) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/zones/{zone}/stand-counts", {
          params: { path: { site: Number(site), zone } },
          body: counted,
        }),
      ),
    onDone,
  );

/** Takes a count back. */
export const useUndoCount = (site: string) =>
  useChange(site, (count: number) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/stand-counts/{count}", { params: { path: { site: Number(site), count } } }),
    ),
  );
