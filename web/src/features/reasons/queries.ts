import { queryOptions } from "@tanstack/react-query";
import { client, unwrap } from "../../api";
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
