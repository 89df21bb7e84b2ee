import { queryOptions, useMutation } from "@tanstack/react-query";
import { client, type Schemas, unwrap, type Zone, type ZoneView } from "../../api";
import { useChange } from "./useChange";

const path = (site: string) => ({ path: { site: Number(site) } });

export const siteQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "view"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}", { params: path(site) })),
  });

export const zonesQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "zones"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/zones", { params: path(site) })),
  });

export const zoneFactsQuery = (site: string, zone: number) =>
  queryOptions({
    queryKey: ["site", site, "zones", zone, "facts"],
    queryFn: () =>
      unwrap(client.GET("/api/v1/sites/{site}/zones/{zone}/facts", { params: { path: { site: Number(site), zone } } })),
  });

/** What so many minutes so many times a week give on a zone. */
export const minutesQuery = (site: string, zone: number, minutes: Schemas["Minutes"]) =>
  queryOptions({
    queryKey: ["site", site, "zones", zone, "minutes", minutes],
    queryFn: () =>
      unwrap(
        client.POST("/api/v1/sites/{site}/zones/{zone}/minutes", {
          params: { path: { site: Number(site), zone } },
          body: minutes,
        }),
      ),
    placeholderData: (before: Schemas["MinutesGive"] | undefined) => before,
  });

export const weatherQuery = (site: string, from: string, to: string) =>
  queryOptions({
    queryKey: ["site", site, "weather", from, to],
    queryFn: () =>
      unwrap(client.GET("/api/v1/sites/{site}/weather", { params: { ...path(site), query: { from, to } } })),
  });

export const catalogueQuery = queryOptions({
  queryKey: ["catalogue"],
  queryFn: () => unwrap(client.GET("/api/v1/catalogue")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const useSaveZone = (site: string) =>
  useChange(site, ({ existing, zone, holds }: { existing?: ZoneView; zone: Zone; holds?: string }) =>
    existing
      ? unwrap(
          client.PUT("/api/v1/sites/{site}/zones/{zone}", {
            params: {
              path: { site: Number(site), zone: existing.id },
              header: { "If-Match": `"${existing.version}"` },
              query: holds ? { holds } : {},
            },
            body: zone,
          }),
        )
      : unwrap(client.POST("/api/v1/sites/{site}/zones", { params: path(site), body: zone })),
  );

export const useEndZone = (site: string) =>
  useChange(site, ({ zone, lastDay }: { zone: ZoneView; lastDay: string }) =>
    unwrap(
      client.POST("/api/v1/sites/{site}/zones/{zone}/end", {
        params: { path: { site: Number(site), zone: zone.id }, header: { "If-Match": `"${zone.version}"` } },
        body: { last_day: lastDay },
      }),
    ),
  );

export const useSaveSite = (site: string, onSaved?: () => void) =>
  useChange(
    site,
    ({ version, edit }: { version: number; edit: Schemas["SiteEdit"] }) =>
      unwrap(
        client.PUT("/api/v1/sites/{site}", {
          params: { ...path(site), header: { "If-Match": `"${version}"` } },
          body: edit,
        }),
      ),
    onSaved,
  );

export const useGauge = (site: string) =>
  useChange(site, (reading: Schemas["GaugeReading"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/gauge-readings", { params: path(site), body: reading })),
  );

export const feedQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "feed"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/weather-feed", { params: path(site) })),
  });

export const useConnectFeed = (site: string) =>
  useChange(site, (climate: string | null) =>
    unwrap(client.PUT("/api/v1/sites/{site}/weather-feed", { params: path(site), body: { climate } })),
  );

export const useDisconnectFeed = (site: string) =>
  useChange(site, () => unwrap(client.DELETE("/api/v1/sites/{site}/weather-feed", { params: path(site) })));

export const useAskFeed = (site: string) =>
  useChange(site, () => unwrap(client.POST("/api/v1/sites/{site}/weather-feed/fetches", { params: path(site) })));

export const useRainChoice = (site: string) =>
  useChange(site, ({ date, counts }: { date: string; counts: Schemas["Counts"] }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}/rain-choices/{date}", {
        params: { path: { site: Number(site), date } },
        body: { counts },
      }),
    ),
  );

const mapped = (mapping: Schemas["Mapping"] | undefined) => (mapping ? { mapping: JSON.stringify(mapping) } : {});

const csv = { headers: { "Content-Type": "text/csv" }, bodySerializer: (body: string) => body };

export const usePreview = (site: string) =>
  useMutation({
    mutationFn: ({ text, mapping }: { text: string; mapping?: Schemas["Mapping"] }) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/weather-imports/preview", {
          params: { ...path(site), query: mapped(mapping) },
          body: text,
          ...csv,
        }),
      ),
  });

export const useImport = (site: string) =>
  useChange(
    site,
    (input: { text: string; conflicts: "keep" | "replace"; weatherVersion: number; mapping?: Schemas["Mapping"] }) =>
      unwrap(
        client.POST("/api/v1/sites/{site}/weather-imports", {
          params: {
            ...path(site),
            query: { conflicts: input.conflicts, ...mapped(input.mapping) },
            header: { "If-Match": `"${input.weatherVersion}"` },
          },
          body: input.text,
          ...csv,
        }),
      ),
  );
