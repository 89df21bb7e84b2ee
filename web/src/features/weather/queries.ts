import { queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

const path = (site: string) => ({ path: { site: Number(site) } });

/** Tells the weather of days that are over. */
export const useTell = (site: string) =>
  useChange(site, (told: Schemas["ToldDays"]) =>
    unwrap(client.POST("/api/v1/sites/{site}/weather-days", { params: path(site), body: told })),
  );

/** Takes back what was typed of a day. */
export const useForgetDay = (site: string) =>
  useChange(site, (date: string) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/weather-days/{date}", { params: { path: { site: Number(site), date } } }),
    ),
  );

export const devicesQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "devices"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/device-tokens", { params: path(site) })),
  });

export const useAddDevice = (site: string) =>
  useChange(site, (name: string) =>
    unwrap(client.POST("/api/v1/sites/{site}/device-tokens", { params: path(site), body: { name } })),
  );

export const useRevokeDevice = (site: string) =>
  useChange(site, (device: number) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/device-tokens/{device}", {
        params: { path: { site: Number(site), device } },
      }),
    ),
  );
