import { queryOptions } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api";
import { useChange } from "../site/useChange";

export const dryDaysQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "dry-days"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/dry-days", { params: { path: { site: Number(site) } } })),
  });

/** Keeps a zone dry on a day, or lets it be watered again. */
export const useDryDay = (site: string) =>
  useChange(site, ({ zone, date, kept, note }: { zone: number; date: string; kept: boolean; note: string }) => {
    const params = { path: { site: Number(site), zone, date } };
    return kept
      ? unwrap(
          client.PUT("/api/v1/sites/{site}/zones/{zone}/dry-days/{date}", {
            params,
            body: note.trim() ? { note: note.trim() } : {},
          }),
        )
      : unwrap(client.DELETE("/api/v1/sites/{site}/zones/{zone}/dry-days/{date}", { params }));
  });

export const constraintsQuery = (site: string) =>
  queryOptions({
    queryKey: ["site", site, "constraints"],
    queryFn: () => unwrap(client.GET("/api/v1/sites/{site}/constraints", { params: { path: { site: Number(site) } } })),
  });

/** Asks something of a zone for some hours. */
export const useAsk = (site: string) =>
  useChange(site, ({ zone, body }: { zone: number; body: Schemas["NewEntry"] }) =>
    unwrap(
      client.POST("/api/v1/sites/{site}/zones/{zone}/constraints", {
        params: { path: { site: Number(site), zone } },
        body,
      }),
    ),
  );

/** Takes an entry back. */
export const useLift = (site: string) =>
  useChange(site, (constraint: number) =>
    unwrap(
      client.DELETE("/api/v1/sites/{site}/constraints/{constraint}", {
        params: { path: { site: Number(site), constraint } },
      }),
    ),
  );
