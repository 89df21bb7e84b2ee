import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap, type Zone, type ZoneView } from "../../api";

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

/** A change of a site: everything of the site is asked again once it is done. */
function useChange<Input, Output>(site: string, mutationFn: (input: Input) => Promise<Output>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn,
    onSettled: () => queries.invalidateQueries({ queryKey: ["site", site] }),
  });
}

export const useSaveZone = (site: string) =>
  useChange(site, ({ existing, zone }: { existing?: ZoneView; zone: Zone }) =>
    existing
      ? unwrap(
          client.PUT("/api/v1/sites/{site}/zones/{zone}", {
            params: {
              path: { site: Number(site), zone: existing.id },
              header: { "If-Match": `"${existing.version}"` },
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

export const useSaveSite = (site: string) =>
  useChange(site, ({ version, edit }: { version: number; edit: Schemas["SiteEdit"] }) =>
    unwrap(
      client.PUT("/api/v1/sites/{site}", {
        params: { ...path(site), header: { "If-Match": `"${version}"` } },
        body: edit,
      }),
    ),
  );

export const useGauge = (site: string) =>
  useChange(site, (reading: Schemas["GaugeReading"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/gauge-readings", { params: path(site), body: reading })),
  );

const csv = { headers: { "Content-Type": "text/csv" }, bodySerializer: (body: string) => body };

export const usePreview = (site: string) =>
  useMutation({
    mutationFn: (text: string) =>
      unwrap(client.POST("/api/v1/sites/{site}/weather-imports/preview", { params: path(site), body: text, ...csv })),
  });

export const useImport = (site: string) =>
  useChange(site, (input: { text: string; conflicts: "keep" | "replace"; weatherVersion: number }) =>
    unwrap(
      client.POST("/api/v1/sites/{site}/weather-imports", {
        params: {
          ...path(site),
          query: { conflicts: input.conflicts },
          header: { "If-Match": `"${input.weatherVersion}"` },
        },
        body: input.text,
        ...csv,
      }),
    ),
  );
